import { describe, expect, it } from "vitest";
import type { Matrix, RoomPlans, Step } from "../../api/types";
import { extrasText, extrasValue, NO_APP } from "./extras";
import { changesOf, NO_PLANS, refersTo, withChange, without, type Change } from "./hand";
import { changedSince, lookedAt, situationKey, situationOf } from "./situations";
import { markOf } from "./Verdict";

const off = { is: "off" } as const;
const film = { is: "in", activity: "film" } as const;

function matrix(ready_ms: number): Matrix {
  const cell = { from: off, to: film, ready_ms, sends: 3, guarantee: "certain", waits_hold: true };
  return { cells: [cell] } as unknown as Matrix;
}

describe("what is remembered between two looks", () => {
  it("marks nothing at the first look, and what changed at the next", () => {
    expect(changedSince(undefined, matrix(1000)).size).toBe(0);
    const last = lookedAt(matrix(1000));
    expect(changedSince(last, matrix(1000)).size).toBe(0);
    expect([...changedSince(last, matrix(2000))]).toEqual(["off film"]);
  });

  it("reads back what it writes into an address", () => {
    for (const situation of [off, film, { is: "unknown" } as const])
      expect(situationOf(situationKey(situation))).toEqual(situation);
  });
});

describe("changes by hand", () => {
  const wait: Change = { change: "wait", device: "d", function: "f", nth: 0, ms: 500 };

  it("replaces an earlier change of the same command and leaves others alone", () => {
    const pin: Change = { change: "pin", device: "d", function: "f", nth: 0, at_ms: 9 };
    let plans: RoomPlans = withChange(NO_PLANS, off, film, wait);
    plans = withChange(plans, off, film, pin);
    plans = withChange(plans, off, film, { ...wait, ms: 700 });
    plans = withChange(plans, film, off, wait);
    expect(changesOf(plans, off, film).map((known) => known.change)).toEqual([pin, { ...wait, ms: 700 }]);
    const [gone] = changesOf(plans, film, off);
    if (gone) plans = without(plans, gone);
    expect(changesOf(plans, film, off)).toEqual([]);
  });

  it("knows its command by device, function and number", () => {
    const step = (nth: number) => ({ device: "d", function: "f", nth }) as Step;
    expect(refersTo(wait, step(0))).toBe(true);
    expect(refersTo(wait, step(1))).toBe(false);
    expect(refersTo({ change: "forbid", device: "d", function: "f" }, step(1))).toBe(true);
  });
});

describe("what comes with an activity", () => {
  it("is the same after it was typed", () => {
    const extras = {
      volume: 14,
      app: null,
      settings: [],
      arrival: [],
      favourites: [
        { name: "News", does: { does: "channel" as const, number: "104" } },
        { name: "Softer", does: { does: "volume" as const, steps: -5 } },
        { name: "On", does: { does: "presses" as const, function: "f", times: 3 } },
      ],
    };
    expect(extrasValue(extrasText(extras), undefined)).toEqual(extras);
  });

  it.each([
    ["channel", "12a", "no channel number"],
    ["volume", "loud", "how many steps"],
    ["presses", "many", "how many presses"],
    ["app", "Moon", "does not know"],
  ] as const)("says what is wrong with %s %s", (does, text, expected) => {
    const typed = { ...extrasText(undefined), favourites: [{ name: "One", does, text, function: "f" }] };
    expect(extrasValue(typed, undefined)).toContain(expected);
    expect(typed.app).toBe(NO_APP);
  });

  it("wants a number as volume and a name for a favourite", () => {
    expect(extrasValue({ ...extrasText(undefined), volume: "x" }, undefined)).toContain("no number");
    const nameless = [{ name: " ", does: "channel" as const, text: "1", function: "" }];
    expect(extrasValue({ ...extrasText(undefined), favourites: nameless }, undefined)).toContain("a name");
  });
});

describe("the mark of a verdict", () => {
  it.each([
    ["certain", true, "certain"],
    ["certain", false, "waits"],
    ["if-nobody-else", true, "hands"],
    ["at-risk", true, "risk"],
  ] as const)("of %s, waits hold: %s, is %s", (guarantee, waits_hold, mark) => {
    expect(markOf({ guarantee, waits_hold })).toBe(mark);
  });
});
