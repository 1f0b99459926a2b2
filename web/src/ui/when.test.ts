import { afterEach, describe, expect, it, vi } from "vitest";
import { day, dayTime, localClocks, longDay, many, minuteClock, typedMinute } from "./when";

function as(language: string) {
  vi.stubGlobal("navigator", { language });
}

afterEach(() => vi.unstubAllGlobals());

describe("the user's own locale", () => {
  it.each([
    ["en-GB", "29 Nov 2026", "29 November 2026"],
    ["en-US", "Nov 29, 2026", "November 29, 2026"],
    ["de-DE", "29.11.2026", "29. November 2026"],
  ])("orders day and month: %s", (language, short, long) => {
    as(language);
    const at = new Date(2026, 10, 29, 20, 30);
    expect(day(at)).toBe(short);
    expect(longDay(at)).toBe(long);
    expect(dayTime(at)).toContain(short);
  });

  it.each([
    ["en-GB", 1230, /^20:30$/],
    ["en-US", 1230, /^8:30\sPM$/],
    ["en-US", 5, /^12:05\sAM$/],
  ])("writes the clock: %s, minute %i", (language, minute, as_written) => {
    as(language);
    expect(minuteClock(minute)).toMatch(as_written);
    expect(typedMinute(minuteClock(minute))).toBe(minute);
  });

  it("reads times with and without halves of the day, and nothing else", () => {
    expect(typedMinute("20:30")).toBe(1230);
    expect(typedMinute("8:30 pm")).toBe(1230);
    expect(typedMinute("12:00 a.m.")).toBe(0);
    for (const wrong of ["", "20", "25:00", "8:60", "13:00 pm", "0:00 am", "noon"])
      expect(typedMinute(wrong)).toBeUndefined();
  });

  it("leaves durations of a plan alone", () => {
    as("en-US");
    expect(localClocks("19:00 to 21:30, pause for 0:41.2")).toMatch(
      /^7:00\sPM to 9:30\sPM, pause for 0:41\.2$/,
    );
  });

  it("groups large numbers", () => {
    as("en-GB");
    expect(many(1234567)).toBe("1,234,567");
    as("de-DE");
    expect(many(1234567)).toBe("1.234.567");
  });
});
