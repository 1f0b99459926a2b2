// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Does, Surface } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { DoesParts } from "./DoesParts";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const surface = {
  id: "s",
  pages: [
    { id: "p", name: "First", keys: [] },
    { id: "q", name: "Lights", keys: [] },
  ],
} as unknown as Surface;

function parts(does: Does) {
  const change = vi.fn();
  const keys = [
    { id: "on", name: "Power on" },
    { id: "mute", name: "Mute" },
  ];
  const apps = [{ name: "Harbour films", reach: { by: "home" } }];
  const view = house({
    profiles: [
      model("receiver", "amp", { functions: keys as never }),
      model("streamer", "box", { functions: keys as never, apps: apps as never }),
    ],
    devices: [device("amp", "Amp"), device("box", "Box")],
    activities: [
      { id: "film", name: "Feature film", room: "hall", position: 0 },
      { id: "music", name: "Music", room: "hall", position: 1 },
    ] as never,
    rooms: [
      {
        id: "hall",
        name: "Hall",
        position: 0,
        lighting: {
          zones: [],
          looks: [
            { id: "dim", name: "Dim", levels: [] },
            { id: "bright", name: "Bright", levels: [] },
          ],
          cues: [],
          switches: [
            { id: "guests", name: "Guests" },
            { id: "holiday", name: "Holiday" },
          ],
          exit: null,
        },
      },
    ] as never,
  });
  show(view, <DoesParts surface={surface} does={does} onChange={change} />);
  return change;
}

const pick = (label: string, option: string) => userEvent.selectOptions(screen.getByLabelText(label), option);
const figure = (label: RegExp, value: string) => {
  const field = screen.getByLabelText(label);
  fireEvent.change(field, { target: { value } });
  fireEvent.blur(field);
};

describe("what a key does", () => {
  it("starts an activity", async () => {
    const change = parts({ does: "activity", activity: "film" });
    await pick("Activity", "Music");
    expect(change).toHaveBeenCalledWith({ does: "activity", activity: "music" });
  });

  it("sends a command, so many times; another device begins with its first key", async () => {
    const change = parts({ does: "command", device: "amp", function: "mute", times: 1 });
    await pick("Command", "Power on");
    expect(change).toHaveBeenLastCalledWith({ does: "command", device: "amp", function: "on", times: 1 });
    figure(/^Times/, "3");
    expect(change).toHaveBeenLastCalledWith({ does: "command", device: "amp", function: "mute", times: 3 });
    await pick("Device", "Box");
    expect(change).toHaveBeenLastCalledWith({ does: "command", device: "box", function: "on", times: 1 });
  });

  it("steps the volume of what sounds, or of one device", async () => {
    const change = parts({ does: "volume", device: null, steps: 1, unit: "steps" } as Does);
    expect(screen.getByLabelText("Device")).toHaveProperty("value", "");
    await pick("Device", "Amp");
    expect(change.mock.lastCall?.[0]).toMatchObject({ does: "volume", device: "amp", steps: 1 });
  });

  it("jumps on by seconds", () => {
    const change = parts({ does: "jump", device: null, seconds: 30 } as Does);
    figure(/^Seconds/, "10");
    expect(change).toHaveBeenLastCalledWith({ does: "jump", device: null, seconds: 10 });
  });

  it("brings a look, turns to a page, starts an app", async () => {
    const look = parts({ does: "look", look: "dim" } as Does);
    await pick("Look", "Bright");
    expect(look).toHaveBeenCalledWith({ does: "look", look: "bright" });
    cleanup();
    const page = parts({ does: "page", page: "p" });
    await pick("To page", "Lights");
    expect(page).toHaveBeenCalledWith({ does: "page", page: "q" });
    cleanup();
    const app = parts({ does: "app", device: "box", name: "" } as Does);
    await pick("App or channel", "Harbour films");
    expect(app).toHaveBeenCalledWith({ does: "app", device: "box", name: "Harbour films" });
  });

  it("flips a mode switch, or puts it on or off", async () => {
    const change = parts({ does: "switch", switch: "guests", on: null });
    expect(screen.getByLabelText("To")).toHaveProperty("value", "flip");
    await pick("To", "on");
    expect(change).toHaveBeenLastCalledWith({ does: "switch", switch: "guests", on: true });
    await pick("To", "off");
    expect(change).toHaveBeenLastCalledWith({ does: "switch", switch: "guests", on: false });
    await pick("Mode switch", "Holiday");
    expect(change).toHaveBeenLastCalledWith({ does: "switch", switch: "holiday", on: null });
  });

  it("switches one device on and off", async () => {
    const change = parts({ does: "power", device: "amp" } as Does);
    await pick("Device", "Box");
    expect(change).toHaveBeenCalledWith({ does: "power", device: "box" });
  });
});
