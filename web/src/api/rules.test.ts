import { describe, expect, it } from "vitest";
import { RULES, surfaceRule, usualModel } from "./rules";
import { overridesOf } from "./overrides";

describe("the rules of the trade", () => {
  it("have a size for every kind of surface, and a model of every kind of device", () => {
    expect(RULES.surfaces.map((rule) => rule.kind).sort()).toEqual(
      [
        "browser",
        "controller",
        "display-remote",
        "folding-phone",
        "hand-remote",
        "key-fob",
        "keypad",
        "phone",
        "tablet",
      ].sort(),
    );
    expect(surfaceRule("keypad")).toMatchObject({ width_mm: 80, columns: 1, glass: false, most_keys: 8 });
    expect(RULES.models.length).toBe(new Set(RULES.models.map((model) => model.kind)).size);
  });

  it("give every model ids of its own, and keep what refers to them", () => {
    const [one, two] = [usualModel("screen"), usualModel("screen")];
    expect(one.id).not.toBe(two.id);
    const keys = one.functions.map((key) => key.id);
    expect([one.motion?.up, one.motion?.down, one.motion?.stop]).toEqual(keys);
    expect(two.functions.map((key) => key.id).some((id) => keys.includes(id))).toBe(false);
  });

  it("say where every field stands that a device may have of its own", () => {
    const model = usualModel("projector");
    const own = {
      ...model,
      after_mains: "on" as const,
      times: { ...model.times, gap_ms: 1_500 },
    };
    const found = overridesOf(model, own);
    expect(found).toEqual([
      { field: "after-mains", value: "on" },
      { field: "gap", value: 1_500 },
    ]);
  });
});
