// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { ControlPath, Device, HouseView } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { ControlPaths } from "./ControlPaths";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const path = (medium: ControlPath["medium"], part: Partial<ControlPath> = {}): ControlPath => ({
  medium,
  replies: false,
  through: null,
  tries: { lost: 0, of: 0 },
  note: "",
  ...part,
});

const advice = [
  {
    class: "ir-discrete",
    rank: 5,
    why: "It has a key for each.",
    missing: null,
    offer: { medium: "ir", replies: false },
  },
];

function open(paths: ControlPath[], options: Parameters<typeof show>[2] = {}, part: Partial<HouseView> = {}) {
  const view = house({
    profiles: [model("receiver", "amp"), model("gateway", "gate")],
    devices: [device("amp", "Receiver", { paths }), device("gate", "Gateway")],
    ...part,
  });
  const answers = { "/advice": advice, ...options.answers };
  return show(view, <ControlPaths device={view.devices[0] as Device} />, { ...options, answers });
}

async function saved(seen: ReturnType<typeof open>) {
  await waitFor(() => expect(seen.edits).toHaveLength(1));
  return (seen.edits[0]?.[0]?.entity?.value as unknown as Device).paths;
}

const both = [path("ir"), path("ip", { replies: true })];

describe("the ways in which commands reach a device", () => {
  it("are what its model offers until they are set up", async () => {
    open([]);
    expect(await screen.findByText(/As the model offers them; a change sets them up/)).toBeDefined();
    expect(screen.getByText(/It has a key for each\./)).toBeDefined();
  });

  it("stand in order, the preferred one first, and are moved", async () => {
    const seen = open(both);
    const [preferred] = screen.getAllByText("preferred");
    expect(preferred?.closest("tr")?.querySelector("th")?.textContent).toContain("nfrared");
    const [, second] = screen.getAllByLabelText(/^Prefer .+ more$/);
    if (second) fireEvent.click(second);
    expect(await saved(seen)).toEqual([both[1], both[0]]);
  });

  it("cannot be moved over the ends", () => {
    open(both);
    const up = screen.getAllByLabelText<HTMLButtonElement>(/^Prefer .+ more$/);
    const down = screen.getAllByLabelText<HTMLButtonElement>(/^Prefer .+ less$/);
    expect(up.map((one) => one.disabled)).toEqual([true, false]);
    expect(down.map((one) => one.disabled)).toEqual([false, true]);
  });

  it("say whether it answers", async () => {
    const seen = open(both);
    const [first] = screen.getAllByLabelText("answers");
    if (first) fireEvent.click(first);
    expect(await saved(seen)).toEqual([path("ir", { replies: true }), both[1]]);
  });

  it.each([
    [/^Lost presses by/, "3", { lost: 3, of: 40 }],
    [/^Lost presses by/, "-7", { lost: 0, of: 40 }],
    [/^Counted presses by/, "a lot", { lost: 1, of: 0 }],
    [/^Counted presses by/, "1000000", { lost: 1, of: 99_999 }],
  ])("count presses: %s %s", async (label, text, tries) => {
    const seen = open([path("ir", { tries: { lost: 1, of: 40 } })]);
    const field = screen.getByLabelText(label);
    fireEvent.change(field, { target: { value: text } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(await saved(seen)).toEqual([path("ir", { tries })]);
  });

  it("go through a gateway that is chosen", async () => {
    const seen = open([path("ir")]);
    fireEvent.keyDown(screen.getByLabelText(/^Gateway for/), { key: "Enter" });
    fireEvent.keyDown(await screen.findByRole("option", { name: "Gateway" }), { key: "Enter" });
    expect(await saved(seen)).toEqual([path("ir", { through: "gate" })]);
  });

  it("are taken away, and none left is said", async () => {
    const seen = open([path("ir")]);
    fireEvent.click(screen.getByLabelText(/^Take .+ away$/));
    expect(await saved(seen)).toEqual([]);
    cleanup();
    open([], { answers: { "/advice": [] } });
    expect(await screen.findByText("No command reaches Receiver.")).toBeDefined();
  });

  it("say why a change was refused", async () => {
    open(both, { refuse: "Note: it has 900 characters; at most 400 fit. Shorten it." });
    const [first] = screen.getAllByLabelText("answers");
    if (first) fireEvent.click(first);
    expect(
      await screen.findByText("Note: it has 900 characters; at most 400 fit. Shorten it."),
    ).toBeDefined();
  });
});

describe("the order of control paths in a house", () => {
  it("is changed for the whole house, and can be the usual one again", async () => {
    const seen = open(both);
    fireEvent.click(screen.getByLabelText("Move serial with replies up"));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    const order = seen.edits[0]?.[0]?.entity?.value["path_order"] as string[];
    expect(order.slice(0, 3)).toEqual(["serial-replies", "ip-feedback", "mesh"]);
    expect(screen.queryByText("Back to the usual order")).toBeNull();
  });

  it("goes back to the usual one", async () => {
    const own = { id: "h", name: "House", path_order: ["rf"] } as unknown as HouseView["house"];
    const seen = open(both, {}, { house: own });
    expect(screen.getByLabelText<HTMLButtonElement>("Move radio up").disabled).toBe(true);
    fireEvent.click(screen.getByText("Back to the usual order"));
    await waitFor(() => expect(seen.edits[0]?.[0]?.entity?.value["path_order"]).toEqual([]));
  });
});
