import { beforeEach, describe, expect, it, vi } from "vitest";
import type { DeviceFunction, LearnView } from "../../api/types";
import { nextKey, pressOf, rememberKey, startKey, stepOf } from "./learn";

const functions: DeviceFunction[] = ["on", "off", "mute"].map((id) => ({ id, name: id }));
const heard = { presses: [], judgement: { remarks: [] } } as unknown as LearnView;

beforeEach(() => {
  const kept = new Map<string, string>();
  vi.stubGlobal("sessionStorage", {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
  });
});

describe("the steps of learning", () => {
  it.each([
    ["ir", undefined, 0, undefined, "infrared"],
    ["ir", undefined, 1, heard, "answered"],
    ["rf433", undefined, 0, undefined, "sweep"],
    ["rf433", 433_920_000, 0, undefined, "radio-first"],
    ["rf433", 433_920_000, 1, heard, "answered"],
    ["rf433", 433_920_000, 1, undefined, "radio-second"],
  ] as const)("%s, %s Hz, %d presses: %#", (medium, frequency, presses, view, step) => {
    expect(stepOf(medium, frequency, presses, view)).toBe(step);
  });

  it("holds a radio key while the learner sweeps, and taps it after", () => {
    const fn = functions[0] as DeviceFunction;
    expect(pressOf("as-asked", "sweep", fn, "rf433").hold_ms).toBeGreaterThanOrEqual(500);
    expect(pressOf("as-asked", "radio-first", fn, "rf433").hold_ms).toBe(0);
    expect(pressOf("slip", "infrared", fn, "ir").slip).toBe(true);
  });
});

describe("a run through a handset", () => {
  it("goes on at the key where it was left, while that one is missing", () => {
    expect(startKey("d", functions, new Set(["on"]))).toBe("off");
    rememberKey("d", "mute");
    expect(startKey("d", functions, new Set(["on"]))).toBe("mute");
    expect(startKey("d", functions, new Set(["on", "mute"]))).toBe("off");
    expect(startKey("d", functions, new Set(["on", "off", "mute"]))).toBe("on");
  });

  it("asks for the next missing key, around the end", () => {
    expect(nextKey(functions, "on", new Set(["on", "off"]))).toBe("mute");
    expect(nextKey(functions, "mute", new Set(["mute", "on"]))).toBe("off");
    expect(nextKey(functions, "off", new Set(["on", "off", "mute"]))).toBe("mute");
  });
});
