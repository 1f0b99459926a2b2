import { describe, expect, it } from "vitest";
import type { Device, Profile } from "../../api/types";
import { formSchema, fromForm, LAST, newProfile, NO_KEY, toForm } from "./form";
import { KINDS, kindRank, powerText, readyText, selectionText } from "./words";

const device: Device = { id: "d", name: "Projector", profile: "p", room: "r", position: 0, behind: null };

function projector(): Profile {
  const profile = newProfile("projector", "Tarnbeck", "P2");
  const [on = "", off = ""] = profile.functions.map((f) => f.id);
  return {
    ...profile,
    functions: [...profile.functions, { id: "ok", name: "OK" }, { id: "source", name: "Source" }],
    power: { how: "discrete", on, off },
    times: { ...profile.times, warm_up: { lo_ms: 24100, hi_ms: 29400, basis: { from: "measured", n: 9 } } },
  };
}

describe("a form and what it stands for", () => {
  it.each(KINDS.map(([kind]) => kind))("a new %s passes its own form unchanged", (kind) => {
    const profile = newProfile(kind, "Maker", "Model");
    const form = toForm(device, profile);
    expect(formSchema.safeParse(form).error?.issues).toBeUndefined();
    expect(fromForm(form, device, profile)).toEqual({ device, profile });
  });

  it("keeps a measured span with how often it was measured", () => {
    const form = toForm(device, projector());
    expect(form.warmUp).toEqual({ lo: "24.1", hi: "29.4", basis: "measured", n: "9" });
    expect(fromForm(form, device, projector()).profile.times.warm_up).toEqual(projector().times.warm_up);
  });

  it("adds the keys that a list needs, and uses those that are there", () => {
    const profile = projector();
    const form = { ...toForm(device, profile), selection: "menu" as const };
    const { functions, selection } = fromForm(form, device, profile).profile;
    expect(functions.map((f) => f.name)).toEqual([
      "Power on",
      "Power off",
      "OK",
      "Source",
      "Next input",
      "Previous input",
    ]);
    expect(selection).toMatchObject({
      how: "menu",
      open: "source",
      confirm: "ok",
      opens: "first",
      ends: "clamp",
    });
  });

  it("gives every input a key of its own name with discrete selection", () => {
    const profile = projector();
    const form = { ...toForm(device, profile), selection: "discrete" as const };
    const next = fromForm(form, device, profile).profile;
    const added = next.functions.find((f) => f.name === "HDMI 1");
    expect(added).toBeDefined();
    expect(next.inputs[0]?.select).toBe(added?.id);
  });

  it("forgets times that no longer mean anything", () => {
    const form = { ...toForm(device, projector()), power: "always-on" as const };
    const { times, power } = fromForm(form, device, projector()).profile;
    expect(power).toEqual({ how: "always-on" });
    expect(times.warm_up.hi_ms).toBe(0);
  });

  it("falls back to the last input where the fixed one was removed", () => {
    const profile = projector();
    const form = { ...toForm(device, profile), afterPowerOn: "gone" };
    expect(fromForm(form, device, profile).profile.after_power_on).toEqual({ input: "last" });
    expect(toForm(device, profile).afterPowerOn).toBe(LAST);
  });

  it("a screen without a stop key says so", () => {
    const profile = newProfile("screen", "Skerrow", "120");
    const form = { ...toForm(device, profile), stop: NO_KEY };
    expect(fromForm(form, device, profile).profile.motion?.stop).toBeNull();
  });
});

describe("what is typed wrong is said at its field", () => {
  const good = toForm(device, projector());
  const issues = (form: object) =>
    formSchema.safeParse({ ...good, ...form }).error?.issues.map((i) => i.message);

  it.each([
    ["an empty name", { name: "  " }, "Name: give it a name."],
    ["a long name", { name: "x".repeat(81) }, "Name: at most 80 characters fit."],
    ["a time in words", { gap: "soon" }, "Seconds, such as 12 or 29.4."],
    [
      "a reversed span",
      { warmUp: { lo: "30", hi: "20", basis: "profile", n: "1" } },
      "The longest time is shorter than the shortest.",
    ],
    [
      "measured no times",
      { warmUp: { lo: "1", hi: "2", basis: "measured", n: "0" } },
      "How often it was measured, 1 or more.",
    ],
    ["a missing key", { on: "" }, "Choose a key."],
  ])("%s", (_what, form, message) => expect(issues(form)).toContain(message));
});

describe("a device in a line", () => {
  it("tells how it is switched and chosen", () => {
    const profile = projector();
    expect(powerText(profile)).toBe("on and off keys");
    expect(powerText({ ...profile, power: { how: "toggle", key: "ok" } })).toBe("one key, OK");
    expect(powerText({ ...profile, power: { how: "always-on" } })).toBe("always on");
    expect(selectionText({ ...profile, selection: { how: "cycle", next: "source" } })).toBe(
      "steps with Source",
    );
  });

  it("tells when it can be used, and how that is known", () => {
    expect(readyText(projector())).toEqual({ time: "20–60 s", basis: "assumed" });
    expect(readyText(newProfile("screen", "a", "b")).time).toBe("15–40 s");
    const always = fromForm(
      { ...toForm(device, projector()), power: "always-on" },
      device,
      projector(),
    ).profile;
    expect(readyText(always)).toEqual({ time: "at once", basis: "" });
  });

  it("stands in the order of the signal", () => {
    expect(kindRank("disc-player")).toBeLessThan(kindRank("receiver"));
    expect(kindRank("receiver")).toBeLessThan(kindRank("projector"));
  });
});
