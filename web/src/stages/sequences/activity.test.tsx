// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Activity, Device, HouseView, NamedStop } from "../../api/types";
import { RoomValue } from "../../shell/context";
import { newProfile } from "../kit/form";
import { ActivityForm } from "./ActivityForm";

const made = (id: string, kind: "streamer" | "display" | "screen") => ({
  ...newProfile(kind, "Maker", id),
  id,
});
const device = (id: string, name: string, position: number): Device => ({
  id,
  name,
  profile: id,
  room: "hall",
  position,
  behind: null,
});

const devices = [
  device("streamer", "Streamer", 0),
  device("display", "Display", 1),
  device("screen", "Screen", 2),
];
let sent: { edits: { entity: { value: Activity } }[] }[] = [];

function open(stops: NamedStop[], known?: Partial<Activity>) {
  const moving = { ...made("screen", "screen"), stops };
  const house = {
    house: { id: "h", name: "House" },
    rooms: [{ id: "hall", name: "Hall", position: 0 }],
    devices,
    profiles: [made("streamer", "streamer"), made("display", "display"), moving],
    behaves: {},
    activities: [],
    versions: {},
    revision: 1,
  } as unknown as HouseView;
  const editing = known ? ({ id: "a", room: "hall", name: "Film", ...known } as Activity) : "new";
  const none = () => undefined;
  render(
    <QueryClientProvider client={new QueryClient()}>
      <RoomValue.Provider value={{ house, room: "hall", devices, say: none, go: none }}>
        <ActivityForm editing={editing} onClose={none} onSaved={none} />
      </RoomValue.Provider>
    </QueryClientProvider>,
  );
}

async function saved(): Promise<Activity | undefined> {
  await userEvent.click(screen.getByText(/^(Save|Add activity)$/, { selector: "button" }));
  await waitFor(() => expect(sent).toHaveLength(1));
  return sent[0]?.edits[0]?.entity.value;
}

beforeEach(() => {
  sent = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push((await request.json()) as (typeof sent)[number]);
    const changed = { house: "h", revision: 2, put: [], taken: [], undo: null, redo: null };
    return Response.json({ title: "Saved", made: null, at: "2026-01-01T00:00:00Z", again: false, changed });
  });
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("where something that moves stands for an activity", () => {
  it("is a tick where it has only its ends", async () => {
    open([]);
    await userEvent.type(screen.getByLabelText(/Name/), "Film");
    await userEvent.click(screen.getByLabelText("Screen comes down for it"));
    expect(await saved()).toMatchObject({ name: "Film", moves: [{ device: "screen", to: "down" }] });
  });

  it("is chosen among its stops where it has some", async () => {
    open([
      { name: "Wide", key: "k1", down_percent: 90 },
      { name: "Scope", key: "k2", down_percent: 70 },
    ]);
    await userEvent.type(screen.getByLabelText(/Name/), "Film");
    fireEvent.keyDown(screen.getByRole("combobox", { name: "Screen goes" }), { key: "Enter" });
    fireEvent.keyDown(await screen.findByRole("option", { name: "to “Scope”, 70 % down" }), { key: "Enter" });
    expect(await saved()).toMatchObject({ moves: [{ device: "screen", to: { stop: 1 } }] });
  });

  it("shows the stop that is kept, and can be left open again", async () => {
    open([{ name: "Wide", key: "k1", down_percent: 90 }], {
      source: "streamer",
      seen_on: "display",
      heard_on: null,
      moves: [{ device: "screen", to: { stop: 0 } }],
    });
    const choice = screen.getByRole("combobox", { name: "Screen goes" });
    expect(choice.textContent).toContain("to “Wide”, 90 % down");
    fireEvent.keyDown(choice, { key: "Enter" });
    fireEvent.keyDown(await screen.findByRole("option", { name: "nowhere for it" }), { key: "Enter" });
    expect(await saved()).toMatchObject({ moves: [] });
  });
});
