import { describe, expect, it } from "vitest";
import { newProfile } from "../stages/kit/form";
import { fieldName, overridesOf } from "./overrides";

const model = newProfile("projector", "Tarnbeck", "P2");

describe("fields that a device has of its own", () => {
  it("are found by comparison", () => {
    const own = { ...model, times: { ...model.times, gap_ms: 1500 }, after_mains: "on" as const };
    const overrides = overridesOf(model, own);
    expect(overrides).toEqual([
      { field: "after-mains", value: "on" },
      { field: "gap", value: 1500 },
    ]);
  });

  it("are none where nothing differs", () => {
    expect(overridesOf(model, { ...model, maker: "Another" })).toEqual([]);
  });

  it("do not count a list of nothing against none", () => {
    const bare: Partial<typeof model> = { ...model };
    delete bare.stops;
    expect(overridesOf(bare as typeof model, { ...model, stops: [] })).toEqual([]);
    const stops = [{ name: "Scope", key: "k", down_percent: 70 }];
    expect(overridesOf(model, { ...model, stops })).toEqual([{ field: "stops", value: stops }]);
    expect(overridesOf({ ...model, stops }, { ...model, stops: [] })).toEqual([
      { field: "stops", value: [] },
    ]);
  });

  it("have names for a sentence", () => {
    expect(fieldName("cool-down")).toBe("cool-down");
  });
});
