import type { EveningEvent, HouseView } from "../../api/types";
import { deviceName, functionName, profileOf } from "../../shell/context";
import { lightingOf, ofKind, SOURCES, WAY, zoneNamed } from "./lighting";

type Act = EveningEvent["act"];

const TRANSPORT = { playing: "plays", paused: "pauses", stopped: "stops" } as const;
const GESTURE = { tap: "tapped", "double-tap": "tapped twice", hold: "held", release: "let go" } as const;

/** What somebody does in an evening, in words. */
export function actWords(house: HouseView, act: Act): string {
  if (act.does === "transport") {
    return `${deviceName(house, act.device)} ${TRANSPORT[act.transport]}, ${WAY[act.way]}`;
  }
  if (act.does === "credits") return `credits on ${deviceName(house, act.device)}`;
  const what = act.what;
  const lighting = house.rooms.map((room) => lightingOf(room));
  switch (what.happens) {
    case "starts":
      return `${house.activities.find((known) => known.id === what.activity)?.name ?? "an activity"} starts`;
    case "room-off":
      return "finish";
    case "sensor":
      return `${deviceName(house, what.device)} ${what.tripped ? "trips" : "is at rest"}`;
    case "press":
      return `${deviceName(house, what.device)} “${functionName(house, what.device, what.function)}” ${GESTURE[what.gesture]}`;
    case "hand":
    case "dim":
      return `${zoneNamed(house, what.zone)?.name ?? "a zone"} set to ${what.percent} % by hand`;
    case "set": {
      const known = lighting.flatMap((one) => one.switches).find((one) => one.id === what.switch);
      return `${known?.name ?? "a mode switch"} ${what.on ? "on" : "off"}`;
    }
    case "look": {
      const known = lighting.flatMap((one) => one.looks).find((one) => one.id === what.look);
      return `look ${known?.name ?? "that is gone"} called`;
    }
    case "says":
      return `${deviceName(house, what.device)} says that it ${TRANSPORT[what.transport]}`;
    case "sent":
      return `${deviceName(house, what.device)} is sent “${functionName(house, what.device, what.function)}”`;
    case "credits":
      return `credits on ${deviceName(house, what.device)}`;
    case "due":
      return "a cue of the clock";
  }
}

/** Everything that could happen in an evening of the room. */
export function possible(house: HouseView, room: string): Act[] {
  const lighting = lightingOf(house.rooms.find((known) => known.id === room));
  const happens = (what: Extract<Act, { does: "happens" }>["what"]): Act => ({ does: "happens", what });
  const acts: Act[] = house.activities
    .filter((known) => known.room === room)
    .map((known) => happens({ happens: "starts", activity: known.id }));
  for (const source of ofKind(house, room, SOURCES)) {
    for (const transport of ["playing", "paused", "stopped"] as const)
      acts.push({ does: "transport", device: source.id, transport, way: "our-key" });
    acts.push({ does: "credits", device: source.id });
  }
  acts.push(happens({ happens: "room-off" }));
  for (const sensor of ofKind(house, room, ["sensor"]))
    for (const tripped of [true, false])
      acts.push(happens({ happens: "sensor", device: sensor.id, tripped }));
  for (const keypad of ofKind(house, room, ["keypad"]))
    for (const key of profileOf(house, keypad).functions)
      acts.push(happens({ happens: "press", device: keypad.id, function: key.id, gesture: "tap" }));
  for (const zone of lighting.zones)
    for (const percent of [0, 30, 100]) acts.push(happens({ happens: "hand", zone: zone.id, percent }));
  for (const known of lighting.switches)
    for (const on of [true, false]) acts.push(happens({ happens: "set", switch: known.id, on }));
  for (const look of lighting.looks) acts.push(happens({ happens: "look", look: look.id }));
  return acts;
}

/** The course with an act more, in the order of time. */
export function withAct(course: EveningEvent[], act: Act, atMs: number): EveningEvent[] {
  return [...course, { at_ms: atMs, act }].sort((a, b) => a.at_ms - b.at_ms);
}
