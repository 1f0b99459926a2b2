import { expect, test } from "vitest";
import type { HouseView } from "../../api/types";
import { actWords, possible, withAct } from "./course";

const house = {
  rooms: [
    {
      id: "r",
      name: "Loft",
      lighting: {
        zones: [{ id: "z", name: "Lamps", device: "x" }],
        looks: [{ id: "l", name: "Film", levels: [] }],
        switches: [{ id: "s", name: "Guests" }],
        cues: [],
        exit: null,
      },
    },
  ],
  activities: [{ id: "a", name: "Loft film", room: "r" }],
  behaves: {
    d: { serves: ["r"], own: null },
    k: { serves: ["r"], own: null },
    m: { serves: ["r"], own: null },
  },
  devices: [
    { id: "d", name: "Player", room: "r", profile: "p", overrides: [] },
    { id: "k", name: "Keypad", room: "r", profile: "q", overrides: [] },
    { id: "m", name: "Stair sensor", room: "r", profile: "n", overrides: [] },
  ],
  profiles: [
    { id: "p", kind: "streamer", functions: [{ id: "f", name: "Play" }] },
    { id: "q", kind: "keypad", functions: [{ id: "g", name: "Key 1" }] },
    { id: "n", kind: "sensor", functions: [] },
  ],
} as unknown as HouseView;

test("everything that can happen in a room is offered, each in words of its own", () => {
  const words = possible(house, "r").map((act) => actWords(house, act));
  expect(words).toEqual(
    expect.arrayContaining([
      "Loft film starts",
      "Player plays, our key",
      "credits on Player",
      "finish",
      "Stair sensor trips",
      "Keypad “Key 1” tapped",
      "Lamps set to 30 % by hand",
      "Guests on",
      "look Film called",
    ]),
  );
  expect(new Set(words).size).toBe(words.length);
  expect(words.join()).not.toContain("gone");
});

test("an act that is added stands in the order of time", () => {
  const act = possible(house, "r")[0];
  if (!act) throw new Error("nothing is possible");
  const course = withAct(withAct([], act, 90_000), act, 60_000);
  expect(course.map((event) => event.at_ms)).toEqual([60_000, 90_000]);
});
