import { describe, expect, it } from "vitest";
import { newProfile } from "../stages/kit/form";
import { fieldName, overridesOf, withOverrides } from "./overrides";

const model = newProfile("projector", "Tarnbeck", "P2");

describe("fields that a device has of its own", () => {
  it("are found by comparison, and give the same profile back", () => {
    const own = { ...model, times: { ...model.times, gap_ms: 1500 }, after_mains: "on" as const };
    const overrides = overridesOf(model, own);
    expect(overrides).toEqual([
      { field: "after-mains", value: "on" },
      { field: "gap", value: 1500 },
    ]);
    expect(withOverrides(model, overrides)).toEqual(own);
  });

  it("are none where nothing differs, and leave the model alone", () => {
    expect(overridesOf(model, { ...model, maker: "Another" })).toEqual([]);
    expect(withOverrides(model, [])).toBe(model);
    withOverrides(model, [{ field: "gap", value: 9 }]);
    expect(model.times.gap_ms).toBe(1000);
  });

  it("have names for a sentence", () => {
    expect(fieldName("cool-down")).toBe("cool-down");
  });
});
