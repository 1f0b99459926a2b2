import { RULES } from "./rules";
import type { Override, Profile } from "./types";

/** What each field that a device may have of its own is called. */
const NAMES: Record<Override["field"], string> = {
  power: "power",
  "wake-keys": "wake keys",
  "auto-standby": "switching itself off",
  "after-mains": "after a mains cut",
  "after-power-on": "input after power-on",
  selection: "choice of input",
  motion: "movement",
  stops: "stops between its ends",
  volume: "volume",
  modes: "settings",
  apps: "apps",
  couples: "control over HDMI",
  "warm-up": "time until it takes commands",
  picture: "time until picture or sound",
  "cool-down": "cool-down",
  "input-change": "input change",
  gap: "pause after a command",
  "gap-basis": "where the pause comes from",
  digits: "digits",
  feedback: "feedback",
  wifi: "radio bands",
};

type Place = [keyof Profile] | ["times", keyof Profile["times"]];

/** Where each of them stands in a profile. */
const PLACES = new Map(RULES.own_fields.map((own) => [own.field as Override["field"], own.path as Place]));

/** A list of nothing is the same as none. */
const plain = (value: unknown) => (Array.isArray(value) && value.length === 0 ? null : (value ?? null));

const same = (a: unknown, b: unknown) => JSON.stringify(plain(a)) === JSON.stringify(plain(b));

function place(field: Override["field"]): Place {
  const known = PLACES.get(field);
  if (!known) throw new Error(`a device has no ${field} of its own`);
  return known;
}

function read(profile: Profile, field: Override["field"]): unknown {
  const [first, second] = place(field);
  return second ? profile.times[second] : profile[first];
}

/** Every field in which `own` differs from `model`. */
export function overridesOf(model: Profile, own: Profile): Override[] {
  return [...PLACES.keys()]
    .filter((field) => !same(read(model, field), read(own, field)))
    .map((field) => ({ field, value: read(own, field) ?? null }) as Override);
}

/** What a field is called in a sentence. */
export function fieldName(field: Override["field"]): string {
  return NAMES[field];
}
