// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { MappedPart, ReplacingView } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { ReplaceSheet } from "./ReplaceSheet";
import { choicesFor, usedParts } from "./replacing";

afterEach(() => {
  localStorage.clear();
  cleanup();
  vi.unstubAllGlobals();
});

const part = (own: Partial<MappedPart>): MappedPart => ({
  what: "key",
  id: "k",
  name: "Key",
  used_by: [],
  to: null,
  ...own,
});

const VIEW: ReplacingView = {
  model: "Orrin L5",
  parts: [
    part({ id: "in3", what: "input", name: "HDMI 3", used_by: ["the cable from Receiver"], to: "n1" }),
    part({ id: "zoom", name: "Zoom", used_by: ["Film", "a code"] }),
    part({ id: "spare", name: "Freeze" }),
  ],
  choices: [
    { what: "input", id: "n1", name: "HDMI 1", cable: "hdmi" },
    { what: "key", id: "menu", name: "Menu", cable: null },
  ],
  lost: ["“Zoom” in Film: it goes from there."],
  refused: null,
};

const EFFECT = [
  {
    room: "hall",
    unchanged: 4,
    changes: [
      {
        from: { is: "off" },
        to: { is: "in", activity: "film" },
        way: "Off → Film",
        before: { ready_ms: 30_000, sends: 4, verdict: "Certain" },
        after: { ready_ms: 45_000, sends: 5, verdict: "Certain if the waits hold" },
      },
    ],
  },
];

function stage(view: ReplacingView = VIEW, refuse?: string) {
  return show(
    house({
      profiles: [model("projector", "lamp"), model("screen", "cloth"), model("projector", "beam")],
      devices: [device("lamp", "Lantern")],
    }),
    <ReplaceSheet device={device("lamp", "Lantern")} open onClose={() => undefined} />,
    {
      answers: { "/replacement/preview": view, "/replacement/effect": EFFECT, "/library": [] },
      ...(refuse ? { refuse } : {}),
    },
  );
}

/** Chooses from a list as a user does by keyboard. */
async function choose(label: string, option: string) {
  fireEvent.keyDown(await screen.findByRole("combobox", { name: label }), { key: "Enter" });
  fireEvent.keyDown(await screen.findByRole("option", { name: new RegExp(option) }), { key: "Enter" });
}

describe("what has to be looked at", () => {
  it("is what is used and loses its place or gets another name, the lost first", () => {
    const { changed, same } = usedParts(VIEW);
    expect([changed.map((own) => own.id), same]).toEqual([["zoom", "in3"], []]);
    const named = { ...VIEW, choices: [{ what: "input" as const, id: "n1", name: "hdmi 3", cable: null }] };
    expect(usedParts(named).same.map((own) => own.id)).toEqual(["in3"]);
  });

  it("goes to its own kind only", () => {
    expect(choicesFor(VIEW, part({ what: "input" })).map((own) => own.name)).toEqual(["HDMI 1"]);
  });
});

describe("another model in the place of a device", () => {
  it("offers the same kind first, and never its own model", async () => {
    stage();
    fireEvent.keyDown(await screen.findByRole("combobox", { name: "The new model" }), { key: "Enter" });
    const options = await screen.findAllByRole("option");
    expect(options.map((own) => own.textContent)).toEqual([
      expect.stringContaining("Maker beam"),
      expect.stringContaining("Maker cloth"),
    ]);
  });

  it("says what is used, what is lost and what plans become before anything changes", async () => {
    const seen = stage();
    await choose("The new model", "Maker beam");
    await screen.findByText("“Zoom” in Film: it goes from there.");
    expect(screen.getByText("the cable from Receiver")).toBeTruthy();
    expect(screen.getByText("One more key or socket is used by nothing.")).toBeTruthy();
    const row = (await screen.findByText("Off → Film")).closest("tr");
    expect(row?.textContent).toBe(
      "Off → Film0:30.0, 4 commands, Certain0:45.0, 5 commands, Certain if the waits hold",
    );
    expect(seen.asked.filter((one) => one.path.endsWith("/replacement"))).toEqual([]);
  });

  it("asks again for what is chosen by hand, and puts it there with that choice", async () => {
    const seen = stage();
    await choose("The new model", "Maker beam");
    await choose("What takes the place of Key Zoom", "Menu");
    fireEvent.click(await screen.findByRole("checkbox"));
    const body = { model: "beam", codes_stay: true, chosen: [{ id: "zoom", to: "menu" }] };
    await waitFor(() =>
      expect(seen.asked.some((one) => JSON.stringify(one.body) === JSON.stringify(body))).toBe(true),
    );
    fireEvent.click(screen.getByRole("button", { name: "Put Orrin L5 in its place" }));
    await waitFor(() =>
      expect(seen.said).toEqual(["Orrin L5 stands in for Maker lamp. Undo brings that back."]),
    );
    const sent = seen.asked.find((one) => one.path.endsWith("/replacement"));
    expect(sent?.body).toEqual(body);
  });

  it("keeps what was chosen through a closed page, and forgets it once it stands there", async () => {
    stage();
    await choose("The new model", "Maker beam");
    await choose("What takes the place of Key Zoom", "Menu");
    cleanup();
    const seen = stage();
    const again = await screen.findByRole("combobox", { name: "What takes the place of Key Zoom" });
    await waitFor(() => expect(JSON.stringify(seen.asked.at(-1)?.body)).toContain('"to":"menu"'));
    expect(again).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Put Orrin L5 in its place" }));
    await waitFor(() =>
      expect(Object.keys(localStorage).filter((key) => key.includes("replace:"))).toEqual([]),
    );
  });

  it("says what stands in the way, and cannot be put there", async () => {
    stage({ ...VIEW, refused: "Film – Seen on: Lantern shows no picture. Choose a display." });
    await choose("The new model", "Maker cloth");
    await screen.findByText(/It cannot be put there yet: Film – Seen on/);
    expect(screen.queryByText("What is lost")).toBeNull();
    const put = screen.getByRole<HTMLButtonElement>("button", { name: "Put Orrin L5 in its place" });
    expect(put.disabled).toBe(true);
  });

  it("shows what the server says where it is refused", async () => {
    stage(VIEW, "This device is not in the house any more.");
    await choose("The new model", "Maker beam");
    await screen.findByText("This device is not in the house any more.");
  });
});
