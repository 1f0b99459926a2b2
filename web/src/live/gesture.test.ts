import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { KeyNow } from "../api/types";
import { DOUBLE_MS, Finger, HOLD_MS } from "./gesture";

type Meaning = KeyNow["meanings"][number];

function meaning(gesture: Meaning["gesture"], held: Meaning["held"] = "once"): Meaning {
  return { gesture, held, words: "", page: null, barred: null };
}

describe("a finger on a key", () => {
  beforeEach(() => vi.useFakeTimers());
  afterEach(() => vi.useRealTimers());

  function finger(...meanings: Meaning[]) {
    const told: string[] = [];
    return {
      told,
      hand: new Finger(
        () => meanings,
        (gesture) => told.push(gesture),
      ),
    };
  }

  it("taps at once where nobody waits for a second one", () => {
    const { told, hand } = finger(meaning("tap"));
    hand.press();
    hand.lift();
    expect(told).toEqual(["tap"]);
  });

  it("waits for a second tap only where that means something", () => {
    const { told, hand } = finger(meaning("tap"), meaning("double-tap"));
    hand.press();
    hand.lift();
    expect(told).toEqual([]);
    vi.advanceTimersByTime(DOUBLE_MS);
    expect(told).toEqual(["tap"]);
    hand.tap();
    hand.tap();
    expect(told).toEqual(["tap", "double-tap"]);
    vi.advanceTimersByTime(DOUBLE_MS);
    expect(told).toEqual(["tap", "double-tap"]);
  });

  it("holds, and lets go when it is lifted", () => {
    const { told, hand } = finger(meaning("tap", "repeats"));
    hand.press();
    vi.advanceTimersByTime(HOLD_MS);
    expect(told).toEqual(["hold"]);
    hand.lift();
    expect(told).toEqual(["hold", "release"]);
  });

  it("lets go where the finger slides away, and does not tap then", () => {
    const { told, hand } = finger(meaning("tap"), meaning("hold"));
    hand.press();
    hand.lift(true);
    expect(told).toEqual([]);
    hand.press();
    vi.advanceTimersByTime(HOLD_MS);
    hand.lift(true);
    expect(told).toEqual(["hold", "release"]);
  });

  it("means nothing where it went down on another key", () => {
    const { told, hand } = finger(meaning("tap"));
    hand.lift();
    expect(told).toEqual([]);
    hand.press();
    hand.lift(true);
    hand.lift();
    expect(told).toEqual([]);
  });

  it("takes a long press for a tap where a hold means nothing", () => {
    const { told, hand } = finger(meaning("tap"));
    hand.press();
    vi.advanceTimersByTime(2 * HOLD_MS);
    hand.lift();
    expect(told).toEqual(["tap"]);
  });
});
