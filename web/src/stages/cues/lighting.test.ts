import { describe, expect, it, test } from "vitest";
import type { Cue, HouseView } from "../../api/types";
import {
  ALSOS,
  bent,
  clock,
  firstAlso,
  firstMoment,
  firstProvided,
  levelAt,
  levelOf,
  lightingOf,
  minuteOf,
  MOMENTS,
  newCue,
  PROVIDEDS,
} from "./lighting";

const house = {
  rooms: [{ id: "r", name: "Loft", lighting: { zones: [], looks: [], cues: [], switches: [], exit: null } }],
  behaves: {
    d: { serves: ["r"], own: null },
    k: { serves: ["r"], own: null },
  },
  devices: [
    { id: "d", name: "Player", room: "r", profile: "p", overrides: [] },
    { id: "k", name: "Keypad", room: "r", profile: "q", overrides: [] },
  ],
  profiles: [
    { id: "p", kind: "streamer", functions: [{ id: "f", name: "Play" }] },
    { id: "q", kind: "keypad", functions: [{ id: "g", name: "Key 1" }] },
  ],
} as unknown as HouseView;

const lighting = lightingOf({
  lighting: {
    zones: [],
    looks: [{ id: "film", name: "Film", levels: [{ zone: "walls", percent: 8 }], fade_ms: 4000 }],
    cues: [],
    switches: [{ id: "s", name: "Guests" }],
    exit: null,
  },
} as never);

describe("times of the day", () => {
  test.each([
    ["20:30", 1230],
    ["0:00", 0],
    ["24:00", 1440],
    [" 7:05 ", 425],
    ["7:5", undefined],
    ["24:01", undefined],
    ["12:60", undefined],
    ["noon", undefined],
  ])("%s is %s", (text, minute) => expect(minuteOf(text)).toBe(minute));

  it("come back as they were typed", () => expect(clock(minuteOf("7:05") ?? 0)).toBe("7:05"));
});

describe("the level of a curve", () => {
  const points = [
    { at_ms: 0, level: 0 },
    { at_ms: 1000, level: 0 },
    { at_ms: 1000, level: 40 },
    { at_ms: 3000, level: 0 },
  ];
  test.each([
    [0, 0],
    [999, 0],
    [1000, 40],
    [2000, 20],
    [3000, 0],
    [9000, 0],
  ])("at %i ms is %i %%", (at, level) => expect(levelAt(points, at)).toBeCloseTo(level));
  it("of nothing is dark", () => expect(levelAt([], 5)).toBe(0));
});

it("bends a fade into steps of 2 % at most, and keeps its ends", () => {
  const fine = bent([
    { at_ms: 0, level: 0 },
    { at_ms: 1000, level: 40 },
    { at_ms: 5000, level: 40 },
  ]);
  expect(fine).toHaveLength(22);
  expect(fine.at(10)).toEqual({ at_ms: 500, level: 20 });
  expect(fine.at(-1)).toEqual({ at_ms: 5000, level: 40 });
});

describe("the level that a cue gives", () => {
  const cue = (light: Cue["light"]): Cue => ({ ...newCue(lighting), light: light ?? { does: "stays" } });
  it("is that of its look", () =>
    expect(levelOf(lighting, cue({ does: "look", look: "film", fade_ms: null }), "walls")).toBe(8));
  it("is none where the look leaves the zone alone", () =>
    expect(levelOf(lighting, cue({ does: "look", look: "film", fade_ms: null }), "steps")).toBeUndefined());
  it("is that of before", () =>
    expect(levelOf(lighting, cue({ does: "before", fade_ms: 0 }), "walls")).toBe("before"));
  it("is none where the light stays", () =>
    expect(levelOf(lighting, cue({ does: "stays" }), "walls")).toBeUndefined());
});

describe("what is there to begin with", () => {
  test.each(MOMENTS.map(([at]) => at))("the moment “%s” names what the room has", (at) => {
    const moment = firstMoment(house, "r", lighting, at);
    expect(moment.at).toBe(at);
    if ("device" in moment && at !== "sensor") expect(["d", "k"]).toContain(moment.device);
    if ("function" in moment) expect(["f", "g"]).toContain(moment.function);
  });
  test.each(PROVIDEDS.map(([is]) => is))("the condition “%s”", (is) => {
    const provided = firstProvided(lighting, is);
    expect(provided.is).toBe(is);
    if (provided.is === "switch") expect(provided.switch).toBe("s");
  });
  test.each(ALSOS.map(([also]) => also))("“%s”", (kind) =>
    expect(firstAlso(house, "r", lighting, kind).also).toBe(kind),
  );
  it("a new cue takes the first look", () =>
    expect(newCue(lighting).light).toEqual({ does: "look", look: "film", fade_ms: null }));
  it("a room that says nothing of its light is whole", () =>
    expect(lightingOf(undefined)).toEqual({ zones: [], looks: [], cues: [], switches: [], exit: null }));
});
