// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Cue } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { chooseSound } from "./ChimeParts";
import { CueForm } from "./CueForm";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const view = house({
  profiles: [model("speakers", "box")],
  devices: [device("box", "Hall speaker")],
});

const cue = (also: Cue["also"]): Cue => ({
  id: "cue",
  position: 0,
  moment: { at: "starts", activity: null },
  provided: [],
  light: { does: "stays" },
  also: also ?? [],
  off: false,
});

const chime = { also: "chime", device: "box", sound: "", name: "", length_ms: 0, percent: 40 } as const;

describe("a cue with a chime", () => {
  it("tells all that is missing at once, and is saved once it is there", () => {
    const saved: Cue[] = [];
    show(view, <CueForm cue={cue([chime])} fresh onSave={(own) => saved.push(own)} />);
    fireEvent.click(screen.getByRole("button", { name: "Save cue" }));
    const said = "Still missing: the sound of the chime and the name of the chime.";
    expect(screen.getByText(said)).toBeDefined();
    expect(saved).toEqual([]);
  });

  it("takes the sound as the server evened it out, with its length and the name of the file", async () => {
    const saved: Cue[] = [];
    show(view, <CueForm cue={cue([chime])} fresh onSave={(own) => saved.push(own)} />);
    const named = {
      sound: { id: "s1", media_type: "audio/wav", bytes: "UklGRg==" },
      length_ms: 1234,
      peak: -3,
    };
    vi.stubGlobal("fetch", async () => Response.json(named));
    const file = new File(["x"], "Dinner gong.mp3", { type: "audio/mpeg" });
    fireEvent.change(screen.getByLabelText("Sound of the chime"), { target: { files: [file] } });
    expect(await screen.findByDisplayValue("Dinner gong")).toBeDefined();
    expect(screen.getByText("1.2 s")).toBeDefined();
    fireEvent.click(screen.getByRole("button", { name: "Save cue" }));
    expect(saved[0]?.also).toEqual([{ ...chime, sound: "s1", name: "Dinner gong", length_ms: 1234 }]);
  });

  it("says why a file is no sound, and keeps what was there", async () => {
    show(view, <CueForm cue={cue([chime])} fresh onSave={() => undefined} />);
    vi.stubGlobal("fetch", async () =>
      Response.json({ detail: "That is no sound that this program reads." }, { status: 422 }),
    );
    const file = new File(["x"], "letter.txt");
    fireEvent.change(screen.getByLabelText("Sound of the chime"), { target: { files: [file] } });
    await waitFor(() =>
      expect(screen.getByRole("alert").textContent).toContain("no sound that this program reads"),
    );
  });

  it("does not send what is far too large", async () => {
    const asked = vi.fn();
    vi.stubGlobal("fetch", asked);
    const file = new File(["x"], "concert.wav");
    Object.defineProperty(file, "size", { value: 50_000_000 });
    await expect(chooseSound(file)).rejects.toThrow("up to 8 MB");
    expect(asked).not.toHaveBeenCalled();
  });
});

describe("a cue of two clock times", () => {
  it("has a second time where one is wanted, and none otherwise", () => {
    const saved: Cue[] = [];
    const own = { ...cue([]), moment: { at: "clock", minute: 19 * 60 } as const };
    show(view, <CueForm cue={own} onSave={(next) => saved.push(next)} />);
    fireEvent.click(screen.getByRole("checkbox", { name: "until" }));
    const second = screen.getByLabelText("Second time of the day");
    fireEvent.change(second, { target: { value: "21:30" } });
    fireEvent.click(screen.getByRole("button", { name: "Save cue" }));
    expect(saved[0]?.moment).toEqual({ at: "clock", minute: 1140, until: 1290 });
    fireEvent.click(screen.getByRole("checkbox", { name: "until" }));
    expect(screen.queryByLabelText("Second time of the day")).toBeNull();
  });
});
