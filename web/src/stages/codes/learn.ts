import type { DeviceFunction, LearnView, Medium } from "../../api/types";

/** How the thumb presses a key of the stand-in. */
export type Thumb = "as-asked" | "tap" | "hold" | "slip";

/** Where learning one key stands. */
export type LearnStep = "infrared" | "sweep" | "radio-first" | "radio-second" | "answered";

export function stepOf(
  medium: Medium,
  frequency: number | undefined,
  presses: number,
  heard: LearnView | undefined,
): LearnStep {
  if (heard) return "answered";
  if (medium !== "rf433") return "infrared";
  if (frequency === undefined) return "sweep";
  return presses === 0 ? "radio-first" : "radio-second";
}

const PLACE = "kestrel-learn ";

/** Remembers at which key a run was left. */
export function rememberKey(device: string, fn: string): void {
  try {
    sessionStorage.setItem(PLACE + device, fn);
  } catch {
    // Without a store the run starts at the first missing key.
  }
}

/** The key at which a run goes on: where it was left, if that one is still missing; else the first missing one. */
export function startKey(
  device: string,
  functions: DeviceFunction[],
  coded: Set<string>,
): string | undefined {
  const left = sessionStorage.getItem(PLACE + device);
  if (left && functions.some((fn) => fn.id === left) && !coded.has(left)) return left;
  return (functions.find((fn) => !coded.has(fn.id)) ?? functions[0])?.id;
}

/** The next key without a code, from one on and around; the neighbour where all have one. */
export function nextKey(
  functions: DeviceFunction[],
  current: string,
  coded: Set<string>,
): string | undefined {
  const at = functions.findIndex((fn) => fn.id === current);
  const order = [...functions.slice(at + 1), ...functions.slice(0, Math.max(0, at))];
  return (order.find((fn) => !coded.has(fn.id)) ?? order[0])?.id;
}

/** What the hand does with a key of the stand-in at a step. */
export function pressOf(
  thumb: Thumb,
  step: LearnStep,
  _fn: DeviceFunction,
  medium: Medium,
): { presses: number; hold_ms: number; slip: boolean } {
  const hold = step === "sweep" ? 900 : medium === "rf433" ? 0 : 250;
  switch (thumb) {
    case "as-asked":
      return { presses: 1, hold_ms: hold, slip: false };
    case "tap":
      return { presses: 1, hold_ms: 0, slip: false };
    case "hold":
      return { presses: 1, hold_ms: 900, slip: false };
    case "slip":
      return { presses: 1, hold_ms: 0, slip: true };
  }
}
