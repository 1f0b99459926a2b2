// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Diagnosis, Plan } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { DiagnosisPart } from "./DiagnosisPart";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const inputs = ["HDMI 1", "HDMI 2"].map((name) => ({
  id: name,
  name,
  cable: "hdmi",
  select: null,
  reports: null,
}));

const found: Diagnosis = {
  as_planned: false,
  explanations: [
    { causes: ["Lantern missed “Power on”"], leaves: ["Lantern: off"], share_percent: 71.6 },
    { causes: ["a fuse", "a cable"], leaves: [], share_percent: 28.4 },
  ],
  next: {
    look: "Look at the lamp of Lantern",
    answers: [
      { seen: "lit", leaves: 1, share_percent: 28.4 },
      { seen: "dark", leaves: 1, share_percent: 71.6 },
    ],
  },
} as unknown as Diagnosis;

const goal = (device: string, wish: string) => ({ device, wish, needed: true });

function open(to: Plan["to"], answer: object | undefined = found) {
  const view = house({
    profiles: [
      model("projector", "lamp", { inputs } as never),
      model("screen", "screen"),
      model("receiver", "amp"),
    ],
    devices: [device("lamp", "Lantern"), device("screen", "Fore screen"), device("amp", "Receiver")],
  });
  const goals = [goal("lamp", "on, input HDMI 2"), goal("screen", "down")];
  const plan = { to, goals } as unknown as Plan;
  const answers = answer ? { "/diagnosis": answer } : {};
  return show(view, <DiagnosisPart ends={{ from: "off", to: "film" }} plan={plan} />, { answers });
}

const film = { is: "in", activity: "film" } as Plan["to"];

async function choose(label: string, option: string) {
  fireEvent.keyDown(screen.getByLabelText(label), { key: "Enter" });
  fireEvent.keyDown(await screen.findByRole("option", { name: option, hidden: true }), { key: "Enter" });
}

describe("what was seen after a macro", () => {
  it("is asked of the picture, the sound and the devices of the plan alone", () => {
    open(film);
    for (const label of ["A picture", "Sound", "Lantern", "Fore screen"]) {
      expect(screen.getByLabelText(label).textContent).toBe("not asked");
    }
    expect(screen.queryByLabelText("Receiver")).toBeNull();
    expect(screen.getByText("As planned, Lantern is on, input HDMI 2, Fore screen is down.")).toBeDefined();
  });

  it("is neither picture nor sound where the room went off", () => {
    open({ is: "off" } as Plan["to"]);
    expect(screen.queryByLabelText("A picture")).toBeNull();
  });

  it.each([
    ["A picture", "no", { picture: false, sound: null, devices: [] }],
    ["Sound", "yes", { picture: null, sound: true, devices: [] }],
    ["Lantern", "off", { devices: [{ device: "lamp", on: false, input: null, down: null }] }],
    ["Lantern", "on, HDMI 1", { devices: [{ device: "lamp", on: true, input: "HDMI 1", down: null }] }],
    ["Fore screen", "not down", { devices: [{ device: "screen", on: null, input: null, down: false }] }],
  ])("leads from %s: %s to its causes", async (label, option, body) => {
    const seen = open(film);
    await choose(label, option);
    await waitFor(() => expect(seen.asked).toHaveLength(1));
    expect(seen.asked[0]).toMatchObject({ path: "/api/houses/h/rooms/hall/diagnosis", body });
  });

  it("tells the causes, likeliest first, and the look that tells them apart", async () => {
    open(film);
    await choose("A picture", "no");
    await screen.findByText("Lantern missed “Power on”.");
    const lines = [...document.querySelectorAll("ol li")].map((line) => line.textContent);
    expect(lines).toEqual(["72 %Lantern missed “Power on”.Lantern: off", "28 %a fuse; and a cable."]);
    expect(screen.getByText("Next: look at the lamp of Lantern.")).toBeDefined();
    expect(screen.getByText(/lit: 1 left \(28 %\); dark: 1 left \(72 %\)/)).toBeDefined();
  });

  it("says that no cause is known, or that all is as planned", async () => {
    open(film, { as_planned: false, explanations: [], next: null });
    await choose("Sound", "no");
    expect(await screen.findByText(/No one or two causes that are known here produce this/)).toBeDefined();
    cleanup();
    open(film, { as_planned: true, explanations: [], next: null });
    await choose("Sound", "yes");
    expect(await screen.findByText("This is also what the plan itself leads to.")).toBeDefined();
  });

  it("says why it could not be found out", async () => {
    const seen = open(film, undefined);
    vi.stubGlobal("fetch", () => Promise.reject(new Error("gone")));
    await choose("Sound", "no");
    expect(await screen.findByText(/The server cannot be reached\./)).toBeDefined();
    expect(seen.said).toEqual([]);
  });
});
