import { describe, expect, it } from "vitest";
import type { FloorPlan, Placed } from "../../../api/types";
import { footprint, freePlace, labels, landed, lengthOf, lengthText, marginAt, tip } from "./geometry";

const floor = { size_mm: [6400, 4200, 2600] } as FloorPlan;

const thing = (at: [number, number, number], azimuth = 0): Placed => ({
  id: "p",
  device: "d",
  at_mm: at,
  size_mm: [430, 350, 100],
  azimuth_deg: azimuth,
  elevation_deg: 0,
});

describe("what stands on the plan", () => {
  it("is turned by a quarter where it looks across the room", () => {
    expect(footprint(thing([0, 0, 0], 0))).toEqual([350, 430]);
    expect(footprint(thing([0, 0, 0], 90))).toEqual([430, 350]);
    expect(footprint(thing([0, 0, 0], 180))).toEqual([350, 430]);
  });

  it("stays inside the room and snaps to a wall that is near", () => {
    expect(landed(floor, [400, 300], [3000, 2000])).toEqual([3000, 2000]);
    expect(landed(floor, [400, 300], [-500, 9000])).toEqual([200, 4050]);
    expect(landed(floor, [400, 300], [260, 2000])).toEqual([200, 2000]);
    expect(landed(floor, [9000, 300], [100, 2000])).toEqual([3200, 2000]);
  });

  it("finds a place where nothing stands", () => {
    const first = freePlace(floor, [], [400, 300]);
    const second = freePlace(floor, [thing([first[0], first[1], 500])], [400, 300]);
    expect(second).not.toEqual(first);
    expect(second[1]).toBe(first[1]);
  });

  it("looks along its azimuth", () => {
    const [x, y] = tip([1000, 1000], 90, 500);
    expect([Math.round(x), Math.round(y)]).toEqual([1000, 1500]);
  });
});

describe("names on the plan", () => {
  const drawing = { x: 0, y: 0, width: 6400, height: 4200 };
  const thing = (x: number, y: number, text: string) =>
    ({ at: [x, y], size: [400, 300], text }) as {
      at: [number, number];
      size: [number, number];
      text: string;
    };

  it("stand below a thing, and elsewhere where another name is there", () => {
    const [first, second] = labels(
      [thing(1700, 500, "Receiver 8 dB"), thing(2400, 500, "Disc player")],
      180,
      drawing,
    );
    expect(first?.y).toBeGreaterThan(500);
    expect(second && first && second.y !== first.y).toBe(true);
  });

  it("stand apart in a crowd along a wall", () => {
    const crowd = ["Receiver 8 dB", "Streamer 9 dB", "Disc player 11 dB", "Blind", "Console 10 dB"];
    const all = labels(
      crowd.map((text, at) => thing(1500 + 330 * at, 200, text)),
      180,
      drawing,
    );
    const apart = all.every((one, at) =>
      all.every(
        (other, which) =>
          which <= at ||
          one.y + one.height <= other.y ||
          other.y + other.height <= one.y ||
          one.x + one.width <= other.x ||
          other.x + other.width <= one.x,
      ),
    );
    expect(apart).toBe(true);
  });

  it("stay inside the drawing", () => {
    const [own] = labels([thing(6300, 1200, "Hall gateway")], 180, drawing);
    expect((own?.x ?? 0) + (own?.width ?? 0)).toBeLessThanOrEqual(6400);
    const [low] = labels([thing(3000, 4050, "Blind")], 180, drawing);
    expect(low?.y).toBeLessThan(3900);
  });
});

describe("the figure at the pointer", () => {
  const field = { step_m: 0.1, columns: 2, rows: 2, tenths_db: [61, -9999, 124, 0], height_m: 0.65 };

  it("is the margin of the place below it, and none outside or in the dark", () => {
    expect(marginAt(field, [50, 50])).toBe(6.1);
    expect(marginAt(field, [50, 150])).toBe(12.4);
    expect(marginAt(field, [150, 50])).toBeUndefined();
    expect(marginAt(field, [-1, 50])).toBeUndefined();
    expect(marginAt(field, [50, 250])).toBeUndefined();
  });
});

describe("lengths", () => {
  it("are written in metres, or in feet and inches", () => {
    expect(lengthText(1234, false)).toBe("1.23 m");
    expect(lengthText(4191, true)).toBe("13 ft 9 in");
    expect(lengthText(-305, true)).toBe("−1 ft 0 in");
  });

  it.each([
    ["4.2", false, 4200],
    ["4,2 m", false, 4200],
    ["85 cm", false, 850],
    ["13 ft 9 in", true, 4191],
    ["13'9\"", false, 4191],
    ["10", true, 3048],
    ["24 in", true, 610],
  ])("reads %s", (text, feet, mm) => {
    expect(lengthOf(text, feet)).toBe(mm);
  });

  it("reads no nonsense", () => {
    expect(lengthOf("wide", false)).toBeUndefined();
    expect(lengthOf("", false)).toBeUndefined();
  });
});
