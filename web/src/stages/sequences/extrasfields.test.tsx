// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { device, house, model, show } from "../../testing/house";
import { extrasText, type ExtrasText } from "./extras";
import { ExtrasFields } from "./ExtrasFields";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const volume = { up: "u", down: "d", step_tenths: 10, range: 100, ceiling: 70, absolute: true, mute: null };
const modes = [{ name: "Picture mode", next: null, values: [{ name: "Film", select: null }] }];
const apps = [{ name: "News", reach: { by: "digits" as const, number: "12" } }];

function open(text: Partial<ExtrasText> = {}, heard: string | undefined = "amp"): ExtrasText[] {
  const view = house({
    profiles: [
      model("tuner", "tuner", { apps }),
      model("receiver", "amp", { volume } as never),
      model("projector", "lamp", { modes } as never),
      model("light", "cove", { functions: [{ id: "bright", name: "Bright" }] }),
    ],
    devices: [
      device("tuner", "Tuner"),
      device("amp", "Receiver"),
      device("lamp", "Lantern"),
      device("cove", "Cove"),
    ],
  });
  const changed: ExtrasText[] = [];
  const value = { ...extrasText(undefined), ...text };
  show(
    view,
    <ExtrasFields value={value} onChange={(next) => changed.push(next)} source="tuner" heard={heard} />,
  );
  return changed;
}

async function choose(label: string, option: string) {
  fireEvent.keyDown(screen.getByLabelText(label), { key: "Enter" });
  fireEvent.keyDown(await screen.findByRole("option", { name: option }), { key: "Enter" });
}

const favourite = { name: "News", does: "channel" as const, text: "12", function: "" };

describe("what comes with an activity", () => {
  it("asks for a volume within what the device may play, and only where one is heard", () => {
    const changed = open();
    const field = screen.getByLabelText("Start volume of Receiver (0–70, empty: as it is)");
    fireEvent.change(field, { target: { value: "35" } });
    expect(changed[0]?.volume).toBe("35");
    cleanup();
    open({}, "lamp");
    expect(screen.queryByLabelText(/^Start volume/)).toBeNull();
  });

  it("goes on to a channel of its source", async () => {
    const changed = open({ volume: "1" });
    await choose("App or channel", "News");
    expect(changed[0]?.app).toBe("News");
  });

  it("sets a mode once, and leaves it to the kind of source again", async () => {
    const setting = { device: "lamp", mode: "Picture mode", value: "Film" };
    const changed = open({ volume: "1" });
    await choose("Picture mode of Lantern", "Film");
    expect(changed[0]?.settings).toEqual([setting]);
    cleanup();
    const again = open({ volume: "1", settings: [setting] });
    await choose("Picture mode of Lantern", "by the kind of source");
    expect(again[0]?.settings).toEqual([]);
  });

  it("lights the way in", async () => {
    const changed = open({ volume: "1" });
    await choose("Arrival look of Cove", "Bright");
    expect(changed[0]?.arrival).toEqual([{ device: "cove", function: "bright" }]);
  });
});

describe("favourites", () => {
  it("are added empty, named, and removed", () => {
    const changed = open();
    fireEvent.click(screen.getByText("Add favourite"));
    expect(changed[0]?.favourites).toMatchObject([{ name: "", does: "channel", text: "" }]);
    cleanup();
    const own = open({ favourites: [favourite, { ...favourite, name: "Sport" }] });
    fireEvent.change(screen.getByLabelText("Name of favourite 2"), { target: { value: "Films" } });
    expect(own[0]?.favourites.map((one) => one.name)).toEqual(["News", "Films"]);
    fireEvent.click(screen.getByLabelText("Remove favourite 1"));
    expect(own[1]?.favourites.map((one) => one.name)).toEqual(["Sport"]);
  });

  it.each([
    ["channel", "Number"],
    ["app", "Which"],
    ["presses", "How often"],
    ["volume", "Steps (- is softer)"],
  ] as const)("that are %s ask for: %s", (does, asked) => {
    const changed = open({ favourites: [{ ...favourite, does }] });
    fireEvent.change(screen.getByLabelText(`${asked} of favourite 1`), { target: { value: "3" } });
    expect(changed[0]?.favourites[0]?.text).toBe("3");
  });
});
