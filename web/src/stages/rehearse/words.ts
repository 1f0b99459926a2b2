import type {
  BeliefView,
  DeviceView,
  DriveView,
  Faults,
  HouseView,
  Pressed,
  Profile,
  Stand,
  Standing,
  StoryEvent,
} from "../../api/types";
import { deviceName, functionName, profileOf } from "../../shell/context";
import { seconds } from "../../ui/time";

const POWER: Record<DeviceView["power"], string> = {
  off: "off",
  starting: "starting up",
  on: "on",
  cooling: "off, cooling",
  always: "always on",
};

/** 355 → “35.5”. */
export function tenths(value: number): string {
  return value % 10 === 0 ? String(value / 10) : (value / 10).toFixed(1);
}

/** What a device is, in a few words. */
export function isNow(state: DeviceView, input: string | undefined, follows: boolean): string {
  if (!state.plugged) return "plug out";
  const words: string[] = [];
  if (state.down_percent !== null && state.down_percent !== undefined)
    words.push(`${state.down_percent} % down`);
  else if (state.level_percent !== null && state.level_percent !== undefined)
    words.push(`${state.level_percent} %`);
  else if (state.tripped !== null && state.tripped !== undefined)
    words.push(state.tripped ? "tripped" : "at rest");
  else words.push(follows ? "follows its trigger" : POWER[state.power]);
  if (input) words.push(input);
  if (state.playing && state.playing.transport !== "stopped") {
    words.push(state.playing.transport);
    if (state.playing.credits) words.push("credits");
  }
  if (state.playing?.app) words.push(state.playing.app);
  if (state.volume_tenths !== null && state.volume_tenths !== undefined && state.power === "on")
    words.push(state.muted ? "silent" : `volume ${tenths(state.volume_tenths)}`);
  return words.join(" · ");
}

const HOW: Record<BeliefView["how"], string> = { commanded: "told", seen: "seen", assumed: "assumed" };

/** Where a belief comes from, and how old it is. */
export function beliefSource(belief: BeliefView): string {
  const age = belief.age_ms;
  const old =
    age < 1000 ? "just now" : age < 120_000 ? `${seconds(age)} ago` : `${Math.round(age / 60_000)} min ago`;
  return `${HOW[belief.how]}, ${old}`;
}

/** What is broken, in words; empty where nothing is. */
export function faultWords(faults: Faults): string[] {
  const words: string[] = [];
  if (faults.silent) words.push("says nothing");
  if (faults.closes) words.push("closes connections");
  if (faults.lost_percent) words.push(`loses ${faults.lost_percent} %`);
  if (faults.garbled_percent) words.push(`garbles ${faults.garbled_percent} %`);
  if (faults.slow_ms) words.push(`${seconds(faults.slow_ms)} late`);
  if (faults.wrong_digest) words.push("refuses the password");
  return words;
}

const TALK: Record<DriveView["talks"], string> = {
  lines: "text lines",
  pjlink: "PJLink",
  http: "HTTP",
  player: "player lines",
  speaker: "speaker lines",
  mqtt: "MQTT",
  e131: "E1.31",
};

/** How a device is driven, and how it answers. */
export function driveWords(drive: DriveView): string {
  if (drive.held) return `${TALK[drive.talks]}: ${drive.held}`;
  if (drive.silent) return `${TALK[drive.talks]}, ${drive.silent}`;
  return TALK[drive.talks];
}

/** What a finger does to a key. */
export const GESTURE: Record<Pressed["gesture"], string> = {
  tap: "tapped",
  "double-tap": "tapped twice",
  hold: "held",
  release: "let go after a hold",
};

/** How a device is found at the start of an evening. */
export function standWords(house: HouseView, stand: Stand): string {
  const device = house.devices.find((known) => known.id === stand.device);
  const profile = device && profileOf(house, device);
  const input = profile?.inputs.find((known) => known.id === stand.input);
  const words = [];
  if (profile?.motion) words.push(standing(stand.position ?? "up", profile));
  else if (profile?.power.how !== "always-on") words.push(stand.on ? "on" : "off");
  if (stand.on && input && profile && profile.inputs.length > 1) words.push(input.name);
  if (stand.marked) words.push("with its list open");
  if (stand.doing && stand.doing !== "none") words.push(DOING[stand.doing]);
  return words.join(", ") || "as it is";
}

const DOING: Record<NonNullable<Stand["doing"]>, string> = {
  none: "",
  "warm-up": "starting up",
  "cool-down": "cooling",
  input: "input coming up",
  travel: "moving",
  halt: "just stopped",
};

function switchName(house: HouseView, id: string): string | undefined {
  return house.rooms.flatMap((room) => room.lighting?.switches ?? []).find((known) => known.id === id)?.name;
}

/** A deed of a story in words. */
export function deedWords(house: HouseView, event: StoryEvent): string {
  const name = (device: string) => deviceName(house, device);
  const activity = (id: string) => house.activities.find((known) => known.id === id)?.name ?? "an activity";
  switch (event.is) {
    case "request":
      return event.to.is === "in" ? `Press ${activity(event.to.activity)}` : "Press Finish";
    case "stop":
      return "Press Stop";
    case "complete":
      return "Complete the activity";
    case "restart":
      return `${name(event.device)} restarts`;
    case "stand":
      return `Found ${event.taken_for.is === "in" ? `in ${activity(event.taken_for.activity)}` : "off"}: ${
        event.devices.map((stand) => `${name(stand.device)} ${standWords(house, stand)}`).join(", ") ||
        "as it was left"
      }`;
    case "time":
      return `The clock shows ${event.local.replace("T", ", ")}`;
    case "switch": {
      const known = switchName(house, event.switch) ?? "A mode switch";
      return `${known} ${event.on ? "on" : "off"}`;
    }
    case "fault":
      return `${name(event.device)}: ${faultWords(event.faults).join(", ") || "well again"}`;
    case "hand": {
      const hand = event.hand;
      switch (hand.does) {
        case "power":
          return `${name(hand.device)}: its own power button`;
        case "input":
          return `${name(hand.device)}: another input by hand`;
        case "key":
          return `${name(hand.device)}: a key of its own remote`;
        case "plug":
          return `${name(hand.device)}: plug ${hand.plugged ? "in" : "out"}`;
        case "mains":
          return hand.on ? "The mains come back" : "The mains are cut";
        case "level":
          return `${name(hand.device)}: ${hand.percent} % on the wall`;
        case "cast":
          return `${name(hand.device)}: sent something from a phone`;
        case "press":
          return `${name(hand.device)}: ${functionName(house, hand.device, hand.function)} ${GESTURE[hand.gesture]}`;
        case "trip":
          return `${name(hand.device)}: ${hand.on ? "tripped" : "at rest"}`;
      }
    }
  }
}

export { rehearsingOf as rehearsing } from "../../api/entities";

function standing(position: Standing, profile: Profile): string {
  if (typeof position === "string") return position === "between" ? "half-way" : position;
  return `at “${profile.stops?.[position.stop]?.name ?? "?"}”`;
}
