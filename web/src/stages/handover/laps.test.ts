import { describe, expect, it } from "vitest";
import type { Measurement } from "../../api/types";
import { hotForS, restS } from "./laps";

const NOW = Date.parse("2027-05-03T10:00:00Z");

const run = (agoS: number, ms: number, timing: Measurement["timing"] = "travel-down"): Measurement => ({
  id: String(agoS),
  device: "screen",
  timing,
  ms,
  seen: "house",
  at: new Date(NOW - agoS * 1000).toISOString(),
});

describe("a motor", () => {
  it("may run until it has run for four minutes in a quarter of an hour, and rests then", () => {
    expect(restS([run(60, 24_000)], "screen", NOW)).toBe(0);
    const ten = Array.from({ length: 10 }, (_, at) => run(600 - at * 30, 24_000));
    // The oldest of them ends its quarter of an hour in five minutes.
    expect(restS(ten, "screen", NOW)).toBe(300);
    expect(restS(ten, "other", NOW)).toBe(0);
    expect(restS(ten, "screen", NOW + 900_000)).toBe(0);
    expect(
      restS(
        ten.map((own) => ({ ...own, seen: "rehearsed" as const })),
        "screen",
        NOW,
      ),
    ).toBe(0);
  });
});

describe("a lap", () => {
  const known = { device: "screen", timing: "warm-up" as const };
  it("is hot where it begins before the device has cooled from the one before", () => {
    const before = [run(40, 25_000, "picture")];
    expect(hotForS(before, known, 90_000, NOW)).toBe(50);
    expect(hotForS(before, known, 30_000, NOW)).toBe(0);
    expect(hotForS(before, { ...known, timing: "input" }, 90_000, NOW)).toBe(0);
    expect(hotForS([], known, 90_000, NOW)).toBe(0);
  });
});
