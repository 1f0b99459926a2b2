// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Device, DeviceView, Faults, Profile } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { InStepView } from "./InStepView";
import { Meddle } from "./Meddle";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const state = (part: Partial<DeviceView> = {}) =>
  ({ device: "d", plugged: true, power: "on", tripped: null, level_percent: null, ...part }) as DeviceView;

function meddle(
  profile: Profile,
  own: Partial<DeviceView> = {},
  part: Partial<Device> = {},
  faults?: Faults,
) {
  const calls = { hand: vi.fn(), want: vi.fn(), nudge: vi.fn(), fault: vi.fn(), restart: vi.fn() };
  const actions = Object.fromEntries(Object.entries(calls).map(([name, mutate]) => [name, { mutate }]));
  const one = device("d", "Thing", part);
  show(
    house({ profiles: [{ ...profile, id: "d" }], devices: [one] }),
    <Meddle device={one} state={state(own)} faults={faults} actions={actions as never} />,
  );
  return calls;
}

const press = (name: string | RegExp) => userEvent.click(screen.getByRole("button", { name }));

describe("hands at a device", () => {
  it("press its own button, pull its plug, turn its inputs", async () => {
    const inputs = [{ id: "h1", name: "HDMI 1" }];
    const calls = meddle(
      model("display", "d", { inputs: inputs as never, selection: { how: "direct" } as never }),
    );
    await press("Its own power button");
    expect(calls.hand).toHaveBeenLastCalledWith({ does: "power", device: "d" });
    await press("Pull the plug");
    expect(calls.hand).toHaveBeenLastCalledWith({ does: "plug", device: "d", plugged: false });
    await press("Input HDMI 1");
    expect(calls.hand).toHaveBeenLastCalledWith({ does: "input", device: "d", input: "h1" });
  });

  it("plug it in again where it is out", async () => {
    const calls = meddle(model("display", "d"), { plugged: false });
    await press("Plug in");
    expect(calls.hand).toHaveBeenLastCalledWith({ does: "plug", device: "d", plugged: true });
  });

  it("walk by a sensor, and turn a dimmer at the wall", async () => {
    const calls = meddle(model("light", "d"), { tripped: false, level_percent: 40 });
    await press("Trip it: walk by, open the door");
    expect(calls.hand).toHaveBeenLastCalledWith({ does: "trip", device: "d", on: true });
    await press("60 % on the wall");
    expect(calls.hand).toHaveBeenLastCalledWith({ does: "level", device: "d", percent: 60 });
  });

  it("send something to a streamer from a phone", async () => {
    const calls = meddle(model("streamer", "d"));
    await press("Send something from a phone");
    expect(calls.hand).toHaveBeenLastCalledWith({ does: "cast", device: "d" });
  });

  it("use its own remote", async () => {
    const keys = [{ id: "on", name: "Power on" }];
    const calls = meddle(model("receiver", "d", { functions: keys as never }));
    await press("Power on");
    expect(calls.hand).toHaveBeenLastCalledWith({ does: "key", device: "d", function: "on" });
  });

  it("tap, double-tap or hold the keys of a keypad", async () => {
    const keys = [{ id: "k", name: "Key 1" }];
    const calls = meddle(model("keypad", "d", { functions: keys as never }));
    await userEvent.selectOptions(screen.getByLabelText("How keys are pressed"), "hold");
    await press("Key 1");
    expect(calls.hand).toHaveBeenLastCalledWith({
      does: "press",
      device: "d",
      function: "k",
      gesture: "hold",
    });
  });
});

describe("what the runtime tells a device by name", () => {
  it("is a level for a light", async () => {
    const calls = meddle(model("light", "d"));
    await press("40 % in 2 s");
    expect(calls.want).toHaveBeenLastCalledWith({
      device: "d",
      want: { want: "level", percent: 40, fade_ms: 2000 },
    });
  });

  it("is transport and apps for a player", async () => {
    const apps = [{ name: "Harbour films", reach: { by: "home" } }];
    const calls = meddle(model("streamer", "d", { talks: "player", apps: apps as never }));
    await press("Pause");
    expect(calls.want.mock.lastCall?.[0]).toMatchObject({ want: { want: "transport", to: "paused" } });
    await press("Harbour films");
    expect(calls.want.mock.lastCall?.[0]).toMatchObject({ want: { want: "app", name: "Harbour films" } });
  });

  it("is a message on a display, and its end", async () => {
    const calls = meddle(model("display", "d", { talks: "http" }), { message: "The film begins" } as never);
    await press("Take the message away");
    expect(calls.want.mock.lastCall?.[0]).toMatchObject({ want: { want: "message", text: "" } });
  });

  it("goes by what the device speaks, where that is not what its model does", () => {
    meddle(model("display", "d", { talks: "http" }), {}, { network: { talks: "speaker" } as never });
    expect(screen.getByRole("button", { name: "Say a line at 40 %" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Show a message" })).toBeNull();
  });

  it("is a step of the volume, which the ceiling may hold", async () => {
    const volume = { up: "u", down: "v", range: 100, step_tenths: 10 };
    const calls = meddle(model("receiver", "d", { volume: volume as never }));
    await press("Softer");
    expect(calls.nudge).toHaveBeenLastCalledWith({ device: "d", steps: -1 });
    await press("Louder by 5");
    expect(calls.nudge).toHaveBeenLastCalledWith({ device: "d", steps: 5 });
  });
});

describe("the faults of a device", () => {
  it("are set one by one, the others as they are", async () => {
    const faults = {
      lost_percent: 30,
      garbled_percent: 0,
      slow_ms: 0,
      silent: false,
      closes: false,
      wrong_digest: false,
    };
    const calls = meddle(model("receiver", "d"), {}, {}, faults);
    await userEvent.selectOptions(screen.getByLabelText("Late by"), "2000");
    expect(calls.fault).toHaveBeenLastCalledWith({ device: "d", faults: { ...faults, slow_ms: 2000 } });
    await userEvent.click(screen.getByRole("checkbox", { name: "Says nothing" }));
    expect(calls.fault).toHaveBeenLastCalledWith({ device: "d", faults: { ...faults, silent: true } });
    await userEvent.selectOptions(screen.getByLabelText("Garbles"), "100");
    expect(calls.fault).toHaveBeenLastCalledWith({
      device: "d",
      faults: { ...faults, garbled_percent: 100 },
    });
    await press("Restart it");
    expect(calls.restart).toHaveBeenLastCalledWith("d");
  });
});

describe("in step with what devices tell", () => {
  const rule = (part: object = {}) => ({
    to: { is: "in", activity: "film" },
    while_in: null,
    sentence: "The player plays.",
    blocked: null,
    on: true,
    conditions: [{ device: "d", text: "the display is on HDMI 1", left_out: false }],
    ...part,
  });
  const view = (found: object) => {
    const seen = show(
      house({
        profiles: [model("display", "d")],
        devices: [device("d", "Display")],
        activities: [{ id: "film", name: "Feature film", room: "hall", position: 0 }] as never,
      }),
      <InStepView />,
      { answers: { "/in-step": { rules: [], findings: [], gaps: [], ...found } } },
    );
    const adoption = (at = 0) => seen.edits[at]?.[0]?.entity?.value["adoption"];
    return { seen, adoption };
  };

  it("shows each rule as a sentence, and what blocks one", async () => {
    view({
      rules: [rule(), rule({ to: { is: "off" }, blocked: "Nothing tells that it is off.", on: false })],
    });
    const table = await screen.findByRole("table", { name: "Rules" });
    const [, first, second] = within(table).getAllByRole("row");
    expect(first?.textContent).toContain("Feature filmThe player plays.");
    expect(second?.textContent).toContain("Nothing tells that it is off.");
    expect(
      within(second as HTMLElement).getByRole("checkbox", { name: "Off: rule in force" }),
    ).toHaveProperty("disabled", true);
  });

  it("switches a rule off, and leaves a condition out", async () => {
    const { seen, adoption } = view({ rules: [rule()] });
    await userEvent.click(await screen.findByRole("checkbox", { name: "Feature film: rule in force" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(adoption(0)).toMatchObject({ switched_off: [{ is: "in", activity: "film" }] });
    await userEvent.click(screen.getByRole("checkbox", { name: "the display is on HDMI 1" }));
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(adoption(1)).toMatchObject({ without: [{ to: { is: "in", activity: "film" }, device: "d" }] });
  });

  it("completes what was adopted by itself, and waits for so many lost polls", async () => {
    const { seen, adoption } = view({ rules: [rule()] });
    await userEvent.click(
      await screen.findByRole("checkbox", { name: "Complete what was adopted, by itself" }),
    );
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(adoption(0)).toMatchObject({ complete: true });
    await userEvent.selectOptions(screen.getByLabelText(/^A device is silent after/), "4");
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(adoption(1)).toMatchObject({ lost_polls: 3 });
  });

  it("says what nobody tells, and what would help", async () => {
    view({
      gaps: [
        { device: "d", text: "Nobody tells whether the display is on.", sensor: "a plug that measures" },
      ],
    });
    expect(await screen.findByText(/Nobody tells whether the display is on\./)).toBeTruthy();
    expect(screen.getByText("What would help: a plug that measures.")).toBeTruthy();
    expect(screen.getByText("There is no rule yet: add an activity in Sequences.")).toBeTruthy();
  });

  it("has nothing to say where every device tells", async () => {
    view({ rules: [rule()] });
    expect(await screen.findByText("Every device that matters tells what it is doing.")).toBeTruthy();
  });
});
