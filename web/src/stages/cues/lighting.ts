import type { Also, Cue, HouseView, Light, Lighting, Moment, Provided, Start, Zone } from "../../api/types";
import { devicesServing, profileOf } from "../../shell/context";

export { lightingOf } from "../../api/entities";

export { minuteClock as clock, typedMinute as minuteOf } from "../../ui/when";

/** A zone of this or of another room. */
export function zoneNamed(house: HouseView, id: string): Zone | undefined {
  return house.rooms.flatMap((room) => room.lighting?.zones ?? []).find((zone) => zone.id === id);
}

/** The level that a cue gives a zone, in %; none where it leaves it alone. */
export function levelOf(lighting: Lighting, cue: Cue, zone: string): number | "before" | undefined {
  const light: Light = cue.light ?? { does: "stays" };
  if (light.does === "before") return "before";
  if (light.does !== "look") return undefined;
  const look = lighting.looks.find((known) => known.id === light.look);
  return look?.levels.find((level) => level.zone === zone)?.percent;
}

/** The level of a curve at a moment, in %: a straight line between two points. */
export function levelAt(points: { at_ms: number; level: number }[], atMs: number): number {
  const after = points.findIndex((point) => point.at_ms > atMs);
  const before = points[after === -1 ? points.length - 1 : after - 1];
  if (!before) return points[0]?.level ?? 0;
  const next = after === -1 ? undefined : points[after];
  if (!next || next.at_ms === before.at_ms) return before.level;
  return before.level + ((atMs - before.at_ms) / (next.at_ms - before.at_ms)) * (next.level - before.level);
}

/** The ways in which playback is brought about. */
export const WAY: Record<Start["way"], string> = {
  "our-key": "our key",
  ok: "OK in a list",
  "own-remote": "the maker's own remote",
  voice: "by voice",
  cast: "cast from a phone",
  end: "the end of the film",
};

/** A curve with points close enough for what follows each level to be drawn: one for every 2 %. */
export function bent(points: { at_ms: number; level: number }[]): { at_ms: number; level: number }[] {
  return points.flatMap((point, at) => {
    const before = points[at - 1];
    if (!before) return [point];
    const parts = Math.max(1, Math.ceil(Math.abs(point.level - before.level) / 2));
    return Array.from({ length: parts }, (_, part) => ({
      at_ms: before.at_ms + ((point.at_ms - before.at_ms) * (part + 1)) / parts,
      level: before.level + ((point.level - before.level) * (part + 1)) / parts,
    }));
  });
}

/** A new cue: the arrival, with nothing else. */
export function newCue(lighting: Lighting): Cue {
  const look = lighting.looks[0];
  return {
    id: crypto.randomUUID(),
    moment: { at: "starts", activity: null },
    provided: [],
    light: look ? { does: "look", look: look.id, fade_ms: null } : { does: "stays" },
    also: [],
    off: false,
  };
}

/** The moments, by what one chooses first. */
export const MOMENTS: readonly (readonly [Moment["at"], string])[] = [
  ["starts", "an activity starts"],
  ["ends", "an activity ends"],
  ["room-off", "the room is finished"],
  ["says", "a source says that it plays, pauses, stops"],
  ["sent", "we send a key of a source"],
  ["credits", "the credits roll"],
  ["clock", "the clock"],
  ["sun", "the sun"],
  ["sensor", "a sensor, a door, presence"],
  ["press", "a key of a keypad, a controller or a wall switch"],
  ["switched", "a mode switch changes"],
];

/** Devices of the room of these kinds. */
export function ofKind(house: HouseView, room: string, kinds: string[]) {
  return devicesServing(house, room).filter((device) => kinds.includes(profileOf(house, device).kind));
}

export const SOURCES = ["disc-player", "streamer", "console", "tuner"];

/** A moment of this kind, with what is there to begin with. */
export function firstMoment(house: HouseView, room: string, lighting: Lighting, at: Moment["at"]): Moment {
  const device = (kinds: string[]) => ofKind(house, room, kinds)[0]?.id ?? "";
  const key = (id: string) => {
    const own = house.devices.find((known) => known.id === id);
    return own ? (profileOf(house, own).functions[0]?.id ?? "") : "";
  };
  switch (at) {
    case "starts":
    case "ends":
      return { at, activity: null };
    case "room-off":
      return { at };
    case "says":
      return { at, device: device(SOURCES), transport: "playing" };
    case "sent": {
      const source = device(SOURCES);
      return { at, device: source, function: key(source) };
    }
    case "credits":
      return { at, device: device(SOURCES) };
    case "clock":
      return { at, minute: 1200 };
    case "sun":
      return { at, rises: false, offset_min: 0 };
    case "sensor":
      return { at, device: device(["sensor"]), tripped: true };
    case "press": {
      const keypad = device(["keypad"]);
      return { at, device: keypad, function: key(keypad), gesture: "tap" };
    }
    case "switched":
      return { at, switch: lighting.switches[0]?.id ?? "", on: true };
  }
}

/** The conditions, by what one chooses first. */
export const PROVIDEDS: readonly (readonly [Provided["is"], string])[] = [
  ["between", "between two times"],
  ["days", "on days"],
  ["dark", "dark or light outside"],
  ["switch", "a mode switch"],
  ["in", "in an activity"],
  ["not-in", "not in an activity"],
];

/** A condition of this kind, with what is there to begin with. */
export function firstProvided(lighting: Lighting, is: Provided["is"]): Provided {
  switch (is) {
    case "between":
      return { is, from_min: 1080, to_min: 360 };
    case "days":
      return { is, days: [1, 2, 3, 4, 5] };
    case "dark":
      return { is, dark: true };
    case "switch":
      return { is, switch: lighting.switches[0]?.id ?? "", on: true };
    case "in":
    case "not-in":
      return { is, activity: null };
  }
}

/** What else, by what one chooses first. */
export const ALSOS: readonly (readonly [Also["also"], string])[] = [
  ["macro", "ask for an activity or off"],
  ["command", "send a command"],
  ["volume", "louder or softer"],
  ["say", "say a line"],
  ["chime", "play a chime"],
  ["message", "show a message"],
  ["set", "set a mode switch"],
  ["pause-and-off", "pause, and off later"],
  ["step-aside", "step aside, and come back"],
];

/** Something else of this kind, with what is there to begin with. */
export function firstAlso(house: HouseView, room: string, lighting: Lighting, also: Also["also"]): Also {
  const device = (kinds: string[]) => ofKind(house, room, kinds)[0]?.id ?? "";
  const any = house.devices.find((known) => known.room === room);
  switch (also) {
    case "macro":
      return { also, to: { is: "off" } };
    case "command":
      return {
        also,
        device: any?.id ?? "",
        function: any ? (profileOf(house, any).functions[0]?.id ?? "") : "",
      };
    case "volume":
      return { also, device: device(["receiver", "sound-bar"]), steps: -5 };
    case "say":
      return { also, device: device(["speakers"]), text: "The film begins", percent: 40 };
    case "chime":
      return { also, device: device(["speakers"]), sound: "", name: "", length_ms: 0, percent: 40 };
    case "message":
      return { also, device: device(["display"]), text: "The film begins" };
    case "set":
      return { also, switch: lighting.switches[0]?.id ?? "", on: true };
    case "pause-and-off":
      return { also, device: device(SOURCES), after_s: 300 };
    case "step-aside":
      return { also, device: device(SOURCES), to: null, minutes: 10 };
  }
}
