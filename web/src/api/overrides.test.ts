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

  it("have names for a sentence", () => {
    expect(fieldName("cool-down")).toBe("cool-down");
  });
});
