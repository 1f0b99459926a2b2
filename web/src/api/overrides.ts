import type { Device, Override, Profile } from "./types";

/** Where each field that a device may have of its own stands in a profile, and what it is called. */
const FIELDS: Record<
  Override["field"],
  { name: string; path: [keyof Profile] | ["times", keyof Profile["times"]] }
> = {
  power: { name: "power", path: ["power"] },
  "wake-keys": { name: "wake keys", path: ["wake_keys"] },
  "auto-standby": { name: "switching itself off", path: ["auto_standby"] },
  "after-mains": { name: "after a mains cut", path: ["after_mains"] },
  "after-power-on": { name: "input after power-on", path: ["after_power_on"] },
  selection: { name: "choice of input", path: ["selection"] },
  motion: { name: "movement", path: ["motion"] },
  volume: { name: "volume", path: ["volume"] },
  modes: { name: "settings", path: ["modes"] },
  apps: { name: "apps", path: ["apps"] },
  couples: { name: "control over HDMI", path: ["couples"] },
  "warm-up": { name: "time until it takes commands", path: ["times", "warm_up"] },
  picture: { name: "time until picture or sound", path: ["times", "picture"] },
  "cool-down": { name: "cool-down", path: ["times", "cool_down"] },
  "input-change": { name: "input change", path: ["times", "input"] },
  gap: { name: "pause after a command", path: ["times", "gap_ms"] },
  "gap-basis": { name: "where the pause comes from", path: ["times", "gap_basis"] },
  digits: { name: "digits", path: ["times", "digits"] },
  feedback: { name: "feedback", path: ["feedback"] },
  wifi: { name: "radio bands", path: ["wifi"] },
};

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

function read(profile: Profile, field: Override["field"]): unknown {
  const [first, second] = FIELDS[field].path;
  return second ? profile.times[second] : profile[first];
}

/** The model with a device's own fields in place. */
export function withOverrides(model: Profile, overrides: Device["overrides"]): Profile {
  if (!overrides?.length) return model;
  const own: Profile = { ...model, times: { ...model.times } };
  for (const one of overrides) {
    const [first, second] = FIELDS[one.field].path;
    if (second) Object.assign(own.times, { [second]: one.value });
    else Object.assign(own, { [first]: one.value });
  }
  return own;
}

/** Every field in which `own` differs from `model`. */
export function overridesOf(model: Profile, own: Profile): Override[] {
  return (Object.keys(FIELDS) as Override["field"][])
    .filter((field) => !same(read(model, field), read(own, field)))
    .map((field) => ({ field, value: read(own, field) ?? null }) as Override);
}

/** What a field is called in a sentence. */
export function fieldName(field: Override["field"]): string {
  return FIELDS[field].name;
}
