import { describe, expect, it } from "vitest";
import type { BeliefView, DeviceView, DriveView, Faults, HouseView, Room, StoryEvent } from "../../api/types";
import { beliefSource, deedWords, driveWords, faultWords, isNow, rehearsing, tenths } from "./words";

const house = {
  activities: [{ id: "a", name: "Feature film" }],
  devices: [{ id: "d", name: "Display" }],
} as unknown as HouseView;

const state = (part: Partial<DeviceView>) => ({ power: "on", plugged: true, ...part }) as DeviceView;

describe("what a device is", () => {
  it.each([
    [{ plugged: false }, "plug out"],
    [{ power: "cooling" }, "off, cooling"],
    [{ down_percent: 40 }, "40 % down"],
    [{ level_percent: 0 }, "0 %"],
    [{ tripped: true }, "tripped"],
    [{ volume_tenths: 355, muted: false }, "on · HDMI 1 · volume 35.5"],
    [{ volume_tenths: 300, muted: true }, "on · HDMI 1 · silent"],
    [
      { playing: { transport: "playing", position_ms: 1, credits: true, app: "Tideline" } },
      "on · HDMI 1 · playing · credits · Tideline",
    ],
  ] as [Partial<DeviceView>, string][])("%o is “%s”", (part, words) => {
    const input =
      part.power || part.down_percent || part.tripped || part.level_percent === 0 ? undefined : "HDMI 1";
    expect(isNow(state(part), input, false)).toBe(words);
  });

  it("follows its trigger where its power is another device's", () => {
    expect(isNow(state({}), undefined, true)).toBe("follows its trigger");
  });

  it("has volumes with one decimal at most", () => {
    expect([tenths(0), tenths(5), tenths(360)]).toEqual(["0", "0.5", "36"]);
  });
});

describe("where a belief comes from", () => {
  it.each([
    ["seen", 400, "seen, just now"],
    ["commanded", 12_300, "told, 12.3 s ago"],
    ["assumed", 600_000, "assumed, 10 min ago"],
  ] as const)("%s, %d ms old", (how, age_ms, words) => {
    expect(beliefSource({ how, age_ms } as BeliefView)).toBe(words);
  });
});

describe("what is broken", () => {
  it("is said fault by fault, and nothing where all is well", () => {
    expect(faultWords({} as Faults)).toEqual([]);
    expect(
      faultWords({ silent: true, lost_percent: 30, slow_ms: 500, wrong_digest: true } as Faults),
    ).toEqual(["says nothing", "loses 30 %", "0.5 s late", "refuses the password"]);
  });

  it("stands behind the protocol of a device", () => {
    const drive = { device: "d", talks: "pjlink", held: null, silent: null } as unknown as DriveView;
    expect(driveWords(drive)).toBe("PJLink");
    expect(driveWords({ ...drive, silent: "silent for 9 s" })).toBe("PJLink, silent for 9 s");
    expect(driveWords({ ...drive, held: "192.0.2.7:4352 is outside this machine" })).toContain("outside");
  });
});

describe("a deed of an evening", () => {
  it.each([
    [{ is: "request", to: { is: "in", activity: "a" } }, "Press Feature film"],
    [{ is: "request", to: { is: "off" } }, "Press Finish"],
    [{ is: "stop" }, "Press Stop"],
    [{ is: "complete" }, "Complete the activity"],
    [{ is: "restart", device: "d" }, "Display restarts"],
    [{ is: "fault", device: "d", faults: { closes: true } }, "Display: closes connections"],
    [{ is: "fault", device: "d", faults: {} }, "Display: well again"],
    [{ is: "hand", hand: { does: "power", device: "d" } }, "Display: its own power button"],
    [{ is: "hand", hand: { does: "plug", device: "d", plugged: false } }, "Display: plug out"],
    [{ is: "hand", hand: { does: "mains", on: true } }, "The mains come back"],
    [{ is: "hand", hand: { does: "level", device: "d", percent: 20 } }, "Display: 20 % on the wall"],
  ] as [Omit<StoryEvent, "at_ms">, string][])("%o reads “%s”", (event, words) => {
    expect(deedWords(house, { at_ms: 0, ...event } as StoryEvent)).toBe(words);
  });
});

describe("how a room is rehearsed", () => {
  it("is whole where the house says nothing of it", () => {
    expect(rehearsing({} as Room)).toEqual({
      adoption: { complete: false, lost_polls: 0, switched_off: [], without: [] },
      stories: [],
    });
  });
});
