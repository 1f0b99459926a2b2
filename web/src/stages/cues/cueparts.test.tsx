// @vitest-environment jsdom
import { cleanup, fireEvent, screen, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Cue, HouseView } from "../../api/types";
import { device, house, labelled, model, show } from "../../testing/house";
import { CueForm } from "./CueForm";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const looks = [
  { id: "dim", name: "Dim", levels: [], fade_ms: 2_000 },
  { id: "bright", name: "Bright", levels: [], fade_ms: 500 },
];
const plain: Cue = {
  id: "c1",
  position: 0,
  moment: { at: "starts", activity: null },
  provided: [],
  light: { does: "stays" },
  also: [],
  off: false,
} as unknown as Cue;

function room(): HouseView {
  const view = house({
    profiles: [
      model("disc-player", "disc"),
      model("streamer", "stick"),
      model("sensor", "eye"),
      model("keypad", "pad", { functions: [{ id: "one", name: "One" }] as never }),
      model("receiver", "amp"),
      model("display", "panel"),
      model("speakers", "voice"),
    ],
    devices: [
      device("disc", "Disc player"),
      device("stick", "Stick"),
      device("eye", "Eye"),
      device("pad", "Pad"),
      device("amp", "Amp"),
      device("panel", "Panel"),
      device("voice", "Voice"),
    ],
    activities: [{ id: "film", name: "Film", room: "hall", position: 0 }] as HouseView["activities"],
  });
  const [hall] = view.rooms;
  if (hall) {
    hall.lighting = {
      zones: [],
      looks,
      switches: [
        { id: "guests", name: "Guests", on: false },
        { id: "night", name: "Night", on: false },
      ],
      cues: [plain],
    } as unknown as typeof hall.lighting;
  }
  return view;
}

/** Shows the form, and gives what is saved. */
function form(cue: Cue = plain) {
  const saved = vi.fn<(cue: Cue) => void>();
  show(room(), <CueForm cue={cue} onSave={saved} />);
  return (): Cue => {
    fireEvent.click(screen.getByRole("button", { name: "Save cue" }));
    expect(saved).toHaveBeenCalledOnce();
    return saved.mock.calls[0]?.[0] as Cue;
  };
}

const pick = (label: string, value: string, at = 0) =>
  fireEvent.change(labelled(label, at), { target: { value } });

describe("the moment of a cue", () => {
  it.each<[string, [string, string][], Cue["moment"]]>([
    ["starts", [["Activity", "film"]], { at: "starts", activity: "film" }],
    ["ends", [], { at: "ends", activity: null }],
    ["room-off", [], { at: "room-off" }],
    [
      "says",
      [
        ["Source", "stick"],
        ["What it says", "paused"],
      ],
      { at: "says", device: "stick", transport: "paused" },
    ],
    ["sent", [["Key", "Power off"]], { at: "sent", device: "disc", function: "Power off" }],
    ["credits", [["Source", "stick"]], { at: "credits", device: "stick" }],
    ["clock", [["Time of the day", "6:05"]], { at: "clock", minute: 365 }],
    [
      "sun",
      [
        ["State", "yes"],
        ["Offset", "-20"],
      ],
      { at: "sun", rises: true, offset_min: -20 },
    ],
    ["sensor", [["State", "no"]], { at: "sensor", device: "eye", tripped: false }],
    ["press", [["Gesture", "hold"]], { at: "press", device: "pad", function: "one", gesture: "hold" }],
    [
      "switched",
      [
        ["Mode switch", "night"],
        ["State", "no"],
      ],
      { at: "switched", switch: "night", on: false },
    ],
  ])("that is “%s” is kept as it was chosen", (at, choices, moment) => {
    const save = form();
    if (at !== "starts") pick("Kind of moment", at);
    choices.forEach(([label, value]) => pick(label, value));
    // A moment that is the usual one changes nothing, so something else has to.
    fireEvent.click(screen.getByLabelText("Leave it out for now"));
    expect(save().moment).toEqual(moment);
  });

  it("takes no time that is none", () => {
    form();
    pick("Kind of moment", "clock");
    pick("Time of the day", "25:00");
    expect(screen.getByLabelText("Time of the day").getAttribute("aria-invalid")).toBe("true");
  });

  it("takes a key of the source that is chosen, and not one of the last", () => {
    const save = form();
    pick("Kind of moment", "sent");
    pick("Source", "stick");
    expect(save().moment).toEqual({ at: "sent", device: "stick", function: "Power on" });
  });
});

describe("what is provided for", () => {
  it.each<[string, () => void, unknown]>([
    ["between", () => pick("To", "7:30"), { is: "between", from_min: 1080, to_min: 450 }],
    [
      "days",
      () => {
        fireEvent.click(screen.getByLabelText("Sun"));
        fireEvent.click(screen.getByLabelText("Mon"));
      },
      { is: "days", days: [2, 3, 4, 5, 7] },
    ],
    ["dark", () => pick("State", "no"), { is: "dark", dark: false }],
    ["switch", () => pick("Mode switch", "night"), { is: "switch", switch: "night", on: true }],
    ["in", () => pick("Activity", "film", 1), { is: "in", activity: "film" }],
    ["not-in", () => undefined, { is: "not-in", activity: null }],
  ])("“%s” is kept as it was chosen", (is, choose, provided) => {
    const save = form();
    fireEvent.click(screen.getByRole("button", { name: "Provided" }));
    pick("Kind of condition", is);
    choose();
    expect(save().provided).toEqual([provided]);
  });

  it("is taken away again", () => {
    const save = form({ ...plain, provided: [{ is: "dark", dark: true }] });
    fireEvent.click(screen.getByRole("button", { name: "Remove this condition" }));
    expect(save().provided).toEqual([]);
  });
});

describe("what else a cue does", () => {
  it.each<[string, () => void, unknown]>([
    ["macro", () => pick("Activity", "film", 1), { also: "macro", to: { is: "in", activity: "film" } }],
    [
      "command",
      () => {
        pick("Device", "amp");
        pick("Command", "Power off");
      },
      { also: "command", device: "amp", function: "Power off" },
    ],
    ["volume", () => pick("Steps", "3"), { also: "volume", device: "amp", steps: 3, unit: "steps" }],
    [
      "say",
      () => {
        pick("Text", "Tea");
        pick("Volume", "55");
      },
      { also: "say", device: "voice", text: "Tea", percent: 55 },
    ],
    ["message", () => pick("Text", "Tea"), { also: "message", device: "panel", text: "Tea" }],
    ["set", () => pick("State", "no"), { also: "set", switch: "guests", on: false }],
    [
      "pause-and-off",
      () => pick("Off after", "45"),
      expect.objectContaining({ also: "pause-and-off", device: "disc", after_s: 45 }),
    ],
    [
      "step-aside",
      () => {
        pick("Where to", "film");
        pick("For", "12");
      },
      expect.objectContaining({ also: "step-aside", to: "film", minutes: 12 }),
    ],
  ])("“%s” is kept as it was chosen", (also, choose, kept) => {
    const save = form();
    fireEvent.click(screen.getByRole("button", { name: "Also" }));
    pick("What else", also);
    choose();
    expect(save().also).toEqual([kept]);
  });

  it("is taken away again", () => {
    const save = form({ ...plain, also: [{ also: "macro", to: { is: "off" } }] } as Cue);
    fireEvent.click(screen.getByRole("button", { name: "Remove this" }));
    expect(save().also).toEqual([]);
  });
});

describe("the light of a cue", () => {
  it("fades as its look does until it is told otherwise", () => {
    const save = form();
    pick("What the light does", "bright");
    expect(labelled("Fade").value).toBe("0.5");
    pick("Fade", "3");
    expect(save().light).toEqual({ does: "look", look: "bright", fade_ms: 3_000 });
  });

  it("goes back to what it was before, in a fade of its own", () => {
    const save = form();
    pick("What the light does", "before");
    pick("Fade", "4.5");
    expect(save().light).toEqual({ does: "before", fade_ms: 4_500 });
  });

  it("has no fade where it stays as it is", () => {
    form({ ...plain, light: { does: "look", look: "dim", fade_ms: null } });
    pick("What the light does", "stays");
    expect(screen.queryAllByLabelText((text) => text.startsWith("Fade"))).toEqual([]);
  });
});

describe("the form of a cue", () => {
  it("has nothing to save until something is changed", () => {
    form();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Save cue" }).disabled).toBe(true);
    fireEvent.click(screen.getByLabelText("Leave it out for now"));
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Save cue" }).disabled).toBe(false);
  });

  it("offers the devices of the room by their kinds", () => {
    form();
    pick("Kind of moment", "press");
    const keypads = within(screen.getByLabelText("Keypad or dimmer")).getAllByRole("option");
    expect(keypads.map((option) => option.textContent)).toEqual(["Pad"]);
  });
});
