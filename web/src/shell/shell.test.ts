import { describe, expect, it } from "vitest";
import type { Notes } from "../api/types";
import { match } from "./match";
import { shareOf, STAGES } from "./stages";

describe("finding", () => {
  const value = "code Receiver Power on #0191-dead-beef";

  it.each([
    ["receiver power", 1],
    ["POWER RECEIVER", 1],
    ["  power   on ", 1],
    ["eceiv", 0.5],
    ["", 0.5],
    ["receiver off", 0],
    ["dead", 0],
    ["beef", 0],
  ])("“%s” scores %d", (search, score) => {
    expect(match(value, search)).toBe(score);
  });

  it("puts what begins a word before what is inside one", () => {
    const values = ["device Deck display #1", "code Streamer Play #2", "code Replay #3"];
    const found = values.filter((one) => match(one, "play") > 0);
    expect(found).toHaveLength(3);
    expect(found.filter((one) => match(one, "play") === 1)).toEqual(["code Streamer Play #2"]);
  });
});

describe("the passage bar", () => {
  const notes = {
    kit: { done: 9, total: 9 },
    codes: { done: 35, total: 37 },
    sequences: { done: 0, total: 0 },
    cues: { done: 7, total: 9 },
    rehearse: { done: 1, total: 3 },
  } as unknown as Notes;

  it("has the stages in working order, each with the digit of its place", () => {
    expect(STAGES.map((stage) => stage.digit)).toEqual(["1", "2", "3", "4", "5", "6", "7"]);
    expect(new Set(STAGES.map((stage) => stage.id)).size).toBe(STAGES.length);
  });

  it("counts what can be counted", () => {
    expect(shareOf("kit", notes)).toEqual({ done: 9, total: 9 });
    expect(shareOf("codes", notes)).toEqual({ done: 35, total: 37 });
    expect(shareOf("sequences", notes)).toBeUndefined();
    expect(shareOf("rehearse", notes)).toEqual({ done: 1, total: 3 });
    expect(shareOf("cues", notes)).toEqual({ done: 7, total: 9 });
    expect(shareOf("kit", undefined)).toBeUndefined();
  });
});
