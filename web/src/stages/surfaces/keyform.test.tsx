// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { HouseView, Surface, SurfaceKey, SurfacePage } from "../../api/types";
import { device, house, labelled, model, show } from "../../testing/house";
import type { SurfaceActions } from "./api";
import { KeyForm } from "./KeyForm";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const key = (id: string, column: number, part: Partial<SurfaceKey> = {}): SurfaceKey => ({
  id,
  role: null,
  label: id,
  picture: null,
  column,
  row: 0,
  wide: 1,
  tall: 1,
  bindings: [
    {
      gesture: "tap",
      in_activity: null,
      held: "once",
      does: { does: "command", device: "disc", function: "Power on", times: 1 },
    },
  ],
  lit: null,
  sends: null,
  tint: null,
  by_hand: false,
  ...part,
});

function room(): HouseView {
  const view = house({
    profiles: [
      model("disc-player", "disc", {
        apps: [{ name: "Tide", reach: { by: "digits", number: "1" } }],
      } as never),
      model("receiver", "amp"),
    ],
    devices: [device("disc", "Disc player"), device("amp", "Amp")],
    activities: [{ id: "film", name: "Film", room: "hall", position: 0 }] as HouseView["activities"],
  });
  const [hall] = view.rooms;
  if (hall) {
    hall.lighting = {
      zones: [{ id: "cove", name: "Cove", device: "amp" }],
      looks: [{ id: "dim", name: "Dim", levels: [], fade_ms: 0 }],
      switches: [{ id: "guests", name: "Guests", on: false }],
      cues: [],
    } as unknown as typeof hall.lighting;
  }
  return view;
}

function form(keys: SurfaceKey[] = [key("Start", 0), key("Stop", 2)], columns = 4) {
  const page: SurfacePage = { id: "p1", name: "Page", activity: null, keys, without: [] } as SurfacePage;
  const surface = {
    id: "s1",
    name: "Phone",
    kind: "phone",
    width_mm: 64,
    height_mm: 138,
    columns,
    rows: 10,
    device: null,
    pages: [page, { ...page, id: "p2", name: "Other", keys: [] }],
    may: null,
    trial: null,
    letter_tenths_mm: 20,
  } as unknown as Surface;
  const savePage = vi.fn<(surface: Surface, page: SurfacePage, said: string) => void>();
  const [onClose, onOpen] = [vi.fn(), vi.fn()];
  show(
    room(),
    <KeyForm
      surface={surface}
      page={page}
      own={keys[0] as SurfaceKey}
      actions={{ savePage } as unknown as SurfaceActions}
      onClose={onClose}
      onOpen={onOpen}
    />,
  );
  const saved = () => {
    expect(savePage).toHaveBeenCalledOnce();
    return savePage.mock.calls[0] as [Surface, SurfacePage, string];
  };
  const save = () => {
    fireEvent.click(screen.getByRole("button", { name: "Save key" }));
    return saved()[1].keys[0] as SurfaceKey;
  };
  return { save, saved, savePage, onClose, onOpen };
}

const pick = (label: string, value: string) => fireEvent.change(labelled(label), { target: { value } });

describe("a key", () => {
  it("is renamed, and is made by hand from then on", () => {
    const { save } = form();
    pick("Label", "Begin");
    expect(save()).toMatchObject({ label: "Begin", by_hand: true });
  });

  it("is not laid over another one", () => {
    const { savePage } = form();
    pick("Columns wide", "3");
    fireEvent.click(screen.getByRole("button", { name: "Save key" }));
    expect(screen.getByText(/It would lie on “Stop”\. Make it smaller/)).toBeTruthy();
    expect(savePage).not.toHaveBeenCalled();
    pick("Columns wide", "2");
    fireEvent.click(screen.getByRole("button", { name: "Save key" }));
    expect(savePage).toHaveBeenCalledOnce();
    expect(screen.queryByText(/It would lie on/)).toBeNull();
  });

  it("is never narrower than one column", () => {
    const { save } = form();
    pick("Columns wide", "0");
    pick("Label", "Begin");
    expect(save().wide).toBe(1);
  });

  it("is duplicated into the first free cell, and the twin is opened", () => {
    const { saved, onOpen } = form();
    fireEvent.click(screen.getByRole("button", { name: "Duplicate" }));
    const [, page, said] = saved();
    expect(page.keys).toHaveLength(3);
    expect(page.keys[2]).toMatchObject({ label: "Start", column: 1, row: 0, by_hand: true });
    expect(page.keys[2]?.id).not.toBe("Start");
    expect(said).toBe("“Start” duplicated: change one thing in it.");
    expect(onOpen).toHaveBeenCalledWith(page.keys[2]?.id);
  });

  it("is taken away, with a word on how it comes back", () => {
    const { saved, onClose } = form();
    fireEvent.click(screen.getByRole("button", { name: "Take away" }));
    const [, page, said] = saved();
    expect(page.keys.map((known) => known.id)).toEqual(["Stop"]);
    expect(said).toBe("“Start” taken away. Undo brings it back.");
    expect(onClose).toHaveBeenCalledOnce();
  });

  it("has nothing to save until something is changed", () => {
    form();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Save key" }).disabled).toBe(true);
  });
});

describe("what a key means", () => {
  it.each<[string, Record<string, string>, unknown]>([
    ["activity", {}, { does: "activity", activity: "film" }],
    ["room-off", {}, { does: "room-off" }],
    ["stop-all", {}, { does: "stop-all" }],
    ["look", {}, { does: "look", look: "dim" }],
    ["switch", {}, { does: "switch", switch: "guests", on: null }],
    ["page", {}, { does: "page", page: "p1" }],
    ["app", {}, { does: "app", device: "disc", name: "Tide" }],
    ["power", {}, { does: "power", device: "disc" }],
    ["mute", {}, { does: "mute" }],
  ])("“%s” begins with what is there", (does, _, kept) => {
    const { save } = form();
    pick("It does", does);
    expect(save().bindings?.[0]).toMatchObject({ does: kept, held: "once" });
  });

  it("can differ from activity to activity and from gesture to gesture", () => {
    const { save } = form();
    pick("Gesture", "double-tap");
    pick("In activity", "film");
    expect(save().bindings?.[0]).toMatchObject({ gesture: "double-tap", in_activity: "film" });
  });

  it("goes on while the key is held only for commands and volume", () => {
    const { save } = form();
    pick("While held", "repeats");
    expect(save().bindings?.[0]).toMatchObject({ held: "repeats" });
    cleanup();
    form();
    pick("It does", "look");
    expect(screen.queryByLabelText("While held")).toBeNull();
  });

  it("is added, a hold where there is a tap already, and taken away", () => {
    const { save } = form();
    fireEvent.click(screen.getByRole("button", { name: "Meaning" }));
    expect(screen.getAllByLabelText("Gesture")).toHaveLength(2);
    expect(save().bindings?.map((one) => one.gesture)).toEqual(["tap", "hold"]);
    cleanup();
    const again = form();
    fireEvent.click(screen.getByRole("button", { name: "Remove this meaning" }));
    expect(again.save().bindings).toEqual([]);
  });
});

describe("how a key looks", () => {
  it.each<[string, unknown]>([
    ["activity", { when: "activity", activity: "film" }],
    ["off", { when: "off" }],
    ["on", { when: "on", device: "disc" }],
    ["switch", { when: "switch", switch: "guests" }],
    ["look", { when: "look", look: "dim" }],
    ["level", { when: "level", zone: "cove", above_percent: 0 }],
    ["muted", { when: "muted" }],
  ])("is lit “%s”", (when, lit) => {
    const { save } = form();
    pick("When it is lit", when);
    expect(save().lit).toEqual(lit);
  });

  it("has colours of its own, and loses them again", () => {
    const { save } = form();
    fireEvent.click(screen.getByLabelText("colours of its own"));
    pick("Colour of the key", "#102030");
    expect(save().tint).toEqual({ ink: "#1e2930", ground: "#102030" });
    cleanup();
    const again = form([key("Start", 0, { tint: { ink: "#ffffff", ground: "#000000" } })]);
    fireEvent.click(screen.getByLabelText("colours of its own"));
    expect(again.save().tint).toBeNull();
  });

  it("shows its picture, which can be taken away", () => {
    const { save } = form([key("Start", 0, { picture: "pic" })]);
    fireEvent.click(screen.getByRole("button", { name: "Take it away" }));
    expect(save().picture).toBeNull();
  });
});
