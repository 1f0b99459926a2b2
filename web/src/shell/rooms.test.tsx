// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { HouseView } from "../api/types";
import { house, show } from "../testing/house";
import { NextLine } from "./NextLine";
import { NoRoom } from "./NoRoom";
import { Rooms } from "./Rooms";

const none = () => undefined;
const share = { done: 1, total: 2 };
const stages = { kit: share, codes: share, sequences: share, cues: share, surfaces: share, rehearse: share };
const worst = { weight: "stops", title: "Code missing", text: "Mute has no code.", count: 2 };
const summary = {
  rooms: [
    { id: "hall", name: "Hall", stages, worst, next: null },
    {
      id: "loft",
      name: "Loft",
      stages,
      worst: null,
      next: { step: 1, of: 6, text: "No device stands here yet.", stage: "kit" },
    },
  ],
  stages,
};
const going = {
  activities: ["Film"],
  devices: ["Amp", "Box"],
  moved: [{ device: "Tuner", room: "Loft" }],
  codes: 12,
  surfaces: 0,
  cues: 1,
  stories: 0,
};

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function open(view: HouseView = house(), answers: Record<string, unknown> = {}) {
  return show(view, <Rooms open onClose={none} house={view} room="hall" stage="cues" say={none} />, {
    answers: { "/summary": summary, "/removal": going, "/starting-points": [], ...answers },
  });
}

/** Opens the menu of a room by keyboard, as a mouse needs pointer events that jsdom has not. */
function act(room: string, what: string) {
  const menu = screen.getByRole("button", { name: `What to do with ${room}` });
  menu.focus();
  fireEvent.keyDown(menu, { key: "Enter" });
  fireEvent.click(screen.getByRole("menuitem", { name: what }));
}

describe("the rooms of a house", () => {
  it("say how far each is, what is to mend and what comes next, and open at the same stage", async () => {
    const seen = open();
    expect(await screen.findByText("Code missing: Mute has no code.")).toBeDefined();
    expect(screen.getByText("1 of 6: No device stands here yet.")).toBeDefined();
    fireEvent.click(screen.getByRole("button", { name: "Loft" }));
    expect(seen.at).toBe("/houses/h/rooms/loft/cues");
  });

  it("are moved: both rooms get their places in one step", async () => {
    const seen = open();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Hall one place up" }).disabled).toBe(true);
    fireEvent.click(screen.getByRole("button", { name: "Hall one place down" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]).toMatchObject([
      { entity: { value: { id: "loft", position: 0 } } },
      { entity: { value: { id: "hall", position: 1 } } },
    ]);
  });

  it("are renamed over the version that was seen, and stay in step as they did", async () => {
    const adoption = { complete: true, lost_polls: 2, switched_off: [], without: [] };
    const view = house({ versions: { hall: 6 } });
    if (view.rooms[0]) view.rooms[0].rehearsal = { stories: [], adoption };
    const seen = open(view);
    act("Hall", "Rename …");
    fireEvent.change(screen.getByLabelText("New name of Hall"), { target: { value: "Barn" } });
    fireEvent.click(screen.getByRole("button", { name: "Rename" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]).toMatchObject([
      { do: "put", base: 6, entity: { entity: "room", value: { id: "hall", name: "Barn", adoption } } },
    ]);
  });

  it("are marked as a cupboard, and doubled", async () => {
    const changed = { house: "h", revision: 2, put: [], taken: [], behaves: {}, undo: null, redo: null };
    const saved = {
      title: "Hall doubled.",
      made: "hall-2",
      at: "2026-01-01T00:00:00Z",
      again: false,
      changed,
    };
    const seen = open(house(), { "/copies": saved });
    act("Hall", "It is a cupboard with equipment for others");
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]).toMatchObject([{ entity: { value: { name: "Hall", rack: true } } }]);
    act("Hall", "Duplicate with all that is in it");
    await waitFor(() => expect(seen.at).toBe("/houses/h/rooms/hall-2/cues"));
  });

  it("say what goes with one before it is removed, and what stays", async () => {
    const seen = open();
    act("Hall", "Remove …");
    const group = await screen.findByRole("group", { name: "Remove Hall" });
    expect(
      within(group).getByText(/With it go 2 devices, 12 codes, 1 activity, 1 line of the cue sheet/),
    ).toBeDefined();
    expect(within(group).getByText(/Tuner stays: Loft uses it/)).toBeDefined();
    fireEvent.click(within(group).getByRole("button", { name: "Remove Hall" }));
    await waitFor(() =>
      expect(seen.asked).toContainEqual({
        method: "DELETE",
        path: "/api/houses/h/rooms/hall",
        body: undefined,
      }),
    );
  });

  it("are added with what they begin with, and opened", async () => {
    const changed = { house: "h", revision: 2, put: [], taken: [], behaves: {}, undo: null, redo: null };
    const saved = { title: "Added.", made: "attic", at: "2026-01-01T00:00:00Z", again: false, changed };
    const seen = open(house(), { "/houses/h/rooms": saved });
    fireEvent.change(screen.getByLabelText("Name of a new room"), { target: { value: "Attic" } });
    fireEvent.click(screen.getByRole("button", { name: "Add the room" }));
    await waitFor(() => expect(seen.at).toBe("/houses/h/rooms/attic/cues"));
    expect(seen.asked.find((asked) => asked.method === "POST")?.body).toEqual({
      name: "Attic",
      start: "empty",
    });
  });
});

it("a house without a room offers one, and the way back", () => {
  const undo = { title: "Removed the room Hall", who: "someone", revision: 3 };
  const view = house({ rooms: [], undo } as unknown as Partial<HouseView>);
  show(view, <NoRoom house={view} />, { answers: { "/starting-points": [] } });
  expect(screen.getByText("This house has no room yet. Add the first one.")).toBeDefined();
  expect(screen.getByRole("button", { name: "Undo: Removed the room Hall" })).toBeDefined();
  expect(screen.getByRole("link", { name: "Back to the shelf" })).toBeDefined();
});

it("the next step of a young room leads to its place", () => {
  const next = {
    step: 3,
    of: 6,
    text: "Two cables are missing: begin with Box.",
    stage: "kit",
    device: "box",
  };
  const seen = show(house(), <NextLine next={next} stage="kit" />);
  expect(screen.getByText("3 of 6")).toBeDefined();
  fireEvent.click(screen.getByRole("button", { name: "Show me" }));
  expect(seen.at).toBe("kit");
});
