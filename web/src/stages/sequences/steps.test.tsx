// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { HandChange, Plan } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { NO_PLANS } from "./hand";
import { Steps } from "./Steps";

beforeEach(() => localStorage.clear());

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const step = (index: number, name: string, start_ms: number, part: object = {}) => ({
  index,
  device: "amp",
  function: name,
  name,
  nth: 0,
  press: { presses: 1, hold_ms: 0, gap_ms: 400 },
  medium: "ir",
  start_ms,
  end_ms: start_ms + 100,
  critical: false,
  by_hand: false,
  code: { as: "raw" },
  why: "It has to be on.",
  ...part,
});

const plan = (steps: object[], from: object | null = { is: "off" }): Plan =>
  ({
    from,
    to: { is: "in", activity: "film" },
    steps,
    waits: [{ device: "amp", from_ms: 100, to_ms: 8_100, label: "starts up, 8 s" }],
    ready_ms: 9_000,
    goals: [],
    findings: [],
    runnable: true,
  }) as unknown as Plan;

const two = () => [step(0, "Power on", 0, { critical: true }), step(1, "Disc", 8_100)];

function sheet(own: Plan, hand: HandChange[] = [], refuse?: string) {
  const plans = { ...NO_PLANS, hand };
  const view = house({
    profiles: [
      model("receiver", "amp", {
        functions: [
          { id: "Power on", name: "Power on" },
          { id: "Disc", name: "Disc" },
        ] as never,
      }),
    ],
    devices: [device("amp", "Amp")],
    activities: [{ id: "film", name: "Feature film", room: "hall", position: 0 }] as never,
    rooms: [{ id: "hall", name: "Hall", position: 0, plans }] as never,
  });
  const seen = show(view, <Steps plan={own} />, refuse ? { refuse } : {});
  const saved = (at = 0) => seen.edits[at]?.[0]?.entity?.value["hand"] as HandChange[];
  return { seen, saved };
}

const rows = () => screen.getAllByRole("row").slice(1);

describe("the steps of a plan", () => {
  it("say when, what, what then and why", () => {
    sheet(plan(two()));
    expect(rows()).toHaveLength(2);
    expect(rows()[0]?.textContent).toContain("AmpPower onstarts up, 8 sIt has to be on.");
    expect(screen.getByText(/Off → Feature film, ready after/)).toBeTruthy();
  });

  it("lead to the key that has no code", async () => {
    const { seen } = sheet(plan([step(0, "Disc", 0, { code: null })]));
    await userEvent.click(screen.getByRole("button", { name: "Disc: no code, learn it" }));
    expect(seen.at).toBe("codes");
  });

  it("cannot be changed by hand where nobody knows where they begin", () => {
    sheet(plan(two(), { is: "unknown" }));
    expect(screen.queryByRole("button", { name: /by hand$/ })).toBeNull();
  });
});

describe("a step that is changed by hand", () => {
  const open = async (name: string) => {
    await userEvent.click(screen.getByRole("button", { name: `Change ${name} of Amp by hand` }));
    return screen.getByRole("group", { name: `${name} by hand` });
  };
  const type = (group: HTMLElement, label: string, text: string) =>
    fireEvent.change(within(group).getByLabelText(label), { target: { value: text } });

  it("is pinned to a time", async () => {
    const { saved, seen } = sheet(plan(two()));
    const group = await open("Disc");
    expect(within(group).getByLabelText("Starts at (s)")).toHaveProperty("value", "8.1 s");
    type(group, "Starts at (s)", "12");
    await userEvent.click(within(group).getByRole("button", { name: "Pin" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(saved()[0]).toMatchObject({
      from: { is: "off" },
      to: { is: "in", activity: "film" },
      change: { change: "pin", device: "amp", function: "Disc", nth: 0, at_ms: 12_000 },
    });
    expect(seen.said[0]).toBe("Disc pinned. Undo takes it back.");
  });

  it("has another pause before it, counted from the command before it to this device", async () => {
    const { saved, seen } = sheet(plan(two()));
    const group = await open("Disc");
    expect(within(group).getByLabelText("Pause before it (s)")).toHaveProperty("value", "8 s");
    type(group, "Pause before it (s)", "0.5");
    await userEvent.click(within(group).getByRole("button", { name: "Set pause" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(saved()[0]?.change).toMatchObject({ change: "wait", ms: 500 });
  });

  it("takes seconds alone", async () => {
    sheet(plan(two()));
    const group = await open("Disc");
    type(group, "Starts at (s)", "soon");
    expect(within(group).getByText("Seconds, such as 12 or 0.5.")).toBeTruthy();
    expect(within(group).getByRole("button", { name: "Pin" })).toHaveProperty("disabled", true);
    expect(within(group).getByRole("button", { name: "Set pause" })).toHaveProperty("disabled", false);
  });

  it("is never sent, or sent once more", async () => {
    const { saved, seen } = sheet(plan(two()));
    const group = await open("Disc");
    await userEvent.click(within(group).getByRole("button", { name: "Add" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(saved()[0]?.change).toEqual({ change: "add", device: "amp", function: "Disc", after_ms: 1000 });
    const again = await open("Disc");
    await userEvent.click(within(again).getByRole("button", { name: "Never send Disc" }));
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(saved(1).at(-1)?.change).toEqual({ change: "forbid", device: "amp", function: "Disc" });
  });

  it("stays as it is where the server refuses, and says why", async () => {
    const { seen } = sheet(plan(two()), [], "The room was changed meanwhile.");
    const group = await open("Disc");
    await userEvent.click(within(group).getByRole("button", { name: "Pin" }));
    expect(await screen.findByText("The room was changed meanwhile.")).toBeTruthy();
    expect(seen.edits).toEqual([]);
    expect(screen.getByRole("group", { name: "Disc by hand" })).toBeTruthy();
  });
});

describe("what was changed by hand", () => {
  const change = (own: object): HandChange =>
    ({ from: { is: "off" }, to: { is: "in", activity: "film" }, change: own }) as HandChange;
  const pin = change({ change: "pin", device: "amp", function: "Disc", nth: 0, at_ms: 12_000 });
  const never = change({ change: "forbid", device: "amp", function: "Power on" });

  it("is listed in words, and what fits nothing any more is said", () => {
    sheet(plan(two()), [pin, never]);
    const list = screen.getByRole("region", { name: "Changed by hand" });
    const lines = within(list).getAllByRole("listitem");
    expect(lines[0]?.textContent).toContain("“Disc” of Amp starts at 12");
    expect(lines[0]?.textContent).toContain("fits no command of this plan now");
    expect(lines[1]?.textContent).toContain("“Power on” of Amp is never sent");
    expect(lines[1]?.textContent).not.toContain("fits no command");
  });

  it("is taken back", async () => {
    const { saved, seen } = sheet(plan([step(0, "Disc", 12_000, { by_hand: true })]), [pin, never]);
    const list = screen.getByRole("region", { name: "Changed by hand" });
    expect(list.textContent).not.toContain("fits no command");
    await userEvent.click(within(list).getAllByRole("button", { name: "Take back" })[0] as HTMLElement);
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(saved()).toEqual([never]);
  });
});
