// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Cue, HouseView, Lighting } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { CueForm } from "./CueForm";
import { ZonesView } from "./ZonesView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const cove = { id: "cove", name: "Cove", device: "dimmer", floor_percent: 5, curve: "linear" as const };
const dim = { id: "dim", name: "Dim", levels: [{ zone: "cove", percent: 20 }], fade_ms: 2_000 };
const guests = { id: "guests", name: "Guests", on: false };
const cue: Cue = {
  id: "c1",
  name: "",
  position: 0,
  off: false,
  moment: { at: "starts", activity: null },
  light: { does: "look", look: "dim" },
} as unknown as Cue;

function lit(lighting: Partial<Lighting> = {}): HouseView {
  const view = house({
    profiles: [model("light", "dimmer"), model("disc-player", "disc"), model("sensor", "eye")],
    devices: [device("dimmer", "Dimmer"), device("disc", "Disc player"), device("eye", "Eye")],
    activities: [{ id: "film", name: "Film", room: "hall", position: 0 }] as HouseView["activities"],
  });
  const [hall] = view.rooms;
  if (hall) {
    hall.lighting = {
      zones: [cove],
      looks: [dim],
      switches: [guests],
      cues: [cue],
      ...lighting,
    } as unknown as typeof hall.lighting;
  }
  return view;
}

/** Types into a field as a user does, and leaves it. */
function type(label: string, text: string) {
  const field = screen.getByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
}

const pick = (label: string, value: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value } });

describe("zones", () => {
  it.each([
    ["Name of the zone", "Ledge", { name: "Ledge" }],
    ["Floor of Cove in percent", "12", { floor_percent: 12 }],
    ["Curve of Cove", "perceptual", { curve: "perceptual" }],
  ])("keep %s, and leave looks and cues alone", async (label, text, part) => {
    const seen = show(lit(), <ZonesView />);
    type(label, text);
    await waitFor(() => expect(seen.said).toEqual(["Zone saved."]));
    expect(seen.edits[0]).toMatchObject([
      {
        do: "put",
        entity: { entity: "light", value: { room: "hall", zones: [{ ...cove, ...part }], looks: [dim] } },
      },
    ]);
    expect(seen.edits[0]).toHaveLength(1);
  });

  it("are added with a lamp that is free, or under another name", async () => {
    const seen = show(lit({ zones: [{ ...cove, name: "Dimmer" }] as Lighting["zones"] }), <ZonesView />);
    fireEvent.click(screen.getByText("Add zone"));
    await waitFor(() => expect(seen.said).toEqual(["Zone added."]));
    expect(seen.edits[0]?.[0]?.entity?.value["zones"]).toMatchObject([
      { name: "Dimmer" },
      { name: "Dimmer 2", device: "dimmer" },
    ]);
  });

  it("take their levels out of the looks when they go", async () => {
    const seen = show(lit(), <ZonesView />);
    fireEvent.click(screen.getByLabelText("Remove Cove"));
    await waitFor(() => expect(seen.said).toEqual(["Zone removed. Undo brings it back."]));
    expect(seen.edits[0]?.[0]?.entity?.value).toMatchObject({
      zones: [],
      looks: [{ id: "dim", levels: [] }],
    });
  });

  it("need a lamp first, and say where it is added", () => {
    show(house(), <ZonesView />);
    expect(screen.getByText("This room has no lamp or dimmer yet: add one in Kit.")).toBeDefined();
  });

  it("say why a change was refused", async () => {
    show(lit(), <ZonesView />, { refuse: "Floor: 140 % is more than all. Give 0 to 50." });
    type("Floor of Cove in percent", "140");
    expect((await screen.findAllByText("Floor: 140 % is more than all. Give 0 to 50."))[0]).toBeDefined();
  });
});

describe("a line of the cue sheet", () => {
  function open(own: Cue = cue) {
    const saved: Cue[] = [];
    show(lit(), <CueForm cue={own} onSave={(next) => saved.push(next)} />);
    const save = () => screen.getByText<HTMLButtonElement>("Save cue");
    return { saved, save };
  }

  it("is saved only where it differs", () => {
    const { saved, save } = open();
    expect(save().disabled).toBe(true);
    pick("Activity", "film");
    fireEvent.click(save());
    expect(saved).toEqual([{ ...cue, moment: { at: "starts", activity: "film" } }]);
  });

  it("follows a source: what it says", () => {
    const { saved, save } = open();
    pick("Kind of moment", "says");
    pick("Source", "disc");
    pick("What it says", "paused");
    fireEvent.click(save());
    expect(saved[0]?.moment).toEqual({ at: "says", device: "disc", transport: "paused" });
  });

  it("follows the clock, and takes no time that is none", () => {
    const { saved, save } = open();
    pick("Kind of moment", "clock");
    pick("Time of the day", "22:15");
    const field = screen.getByLabelText("Time of the day");
    fireEvent.change(field, { target: { value: "25:99" } });
    expect(field.getAttribute("aria-invalid")).toBe("true");
    fireEvent.click(save());
    expect(saved[0]?.moment).toEqual({ at: "clock", minute: 22 * 60 + 15 });
  });

  it("follows the sun, earlier or later", () => {
    const { saved, save } = open();
    pick("Kind of moment", "sun");
    pick("State", "no");
    fireEvent.change(screen.getByLabelText(/^Offset/), { target: { value: "-20" } });
    fireEvent.click(save());
    expect(saved[0]?.moment).toEqual({ at: "sun", rises: false, offset_min: -20 });
  });

  it("follows a sensor and a switch of the room", () => {
    const { saved, save } = open();
    pick("Kind of moment", "sensor");
    pick("Sensor", "eye");
    fireEvent.click(save());
    expect(saved[0]?.moment).toMatchObject({ at: "sensor", device: "eye" });
    pick("Kind of moment", "switched");
    pick("Mode switch", "guests");
    fireEvent.click(save());
    expect(saved[1]?.moment).toMatchObject({ at: "switched", switch: "guests" });
  });

  it("holds only on some days", () => {
    const own = { ...cue, provided: [{ is: "days", days: [1, 2] }] } as unknown as Cue;
    const { saved, save } = open(own);
    fireEvent.click(screen.getByLabelText("Sat"));
    fireEvent.click(screen.getByLabelText("Mon"));
    fireEvent.click(save());
    expect(saved[0]?.provided).toEqual([{ is: "days", days: [2, 6] }]);
  });

  it("holds only in an activity, or in none", () => {
    const own = {
      ...cue,
      provided: [{ is: "in", activity: "film" }],
      moment: { at: "room-off" },
    } as unknown as Cue;
    const { saved, save } = open(own);
    pick("Activity", "");
    fireEvent.click(save());
    expect(saved[0]?.provided).toEqual([{ is: "in", activity: null }]);
  });
});
