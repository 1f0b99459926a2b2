import { describe, expect, it } from "vitest";
import { clockTime, parseSeconds, seconds, spanText } from "./time";

describe("times are written as the trade writes them", () => {
  it.each([
    [0, "0:00.0"],
    [39340, "0:39.3"],
    [59970, "1:00.0"],
    [125000, "2:05.0"],
  ])("%d ms in a plan is %s", (ms, text) => expect(clockTime(ms)).toBe(text));

  it.each([
    [6000, "6 s"],
    [29400, "29.4 s"],
    [40, "0 s"],
  ])("%d ms in a sentence is %s", (ms, text) => expect(seconds(ms)).toBe(text));

  it("a span names its unit once", () => {
    expect(spanText(24100, 29400)).toBe("24.1–29.4 s");
    expect(spanText(6000, 6000)).toBe("6 s");
    expect(spanText(0, 0)).toBe("–");
  });
});

describe("seconds are read as people type them", () => {
  it.each([
    ["29.4", 29400],
    ["29,4 s", 29400],
    [" 6 ", 6000],
    ["0", 0],
  ])("%s is %d ms", (text, ms) => expect(parseSeconds(text)).toBe(ms));

  it.each(["", "soon", "-3", "1.2.3", "1e3"])("%s is no time", (text) =>
    expect(parseSeconds(text)).toBeUndefined(),
  );
});
