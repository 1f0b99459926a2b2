// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { house, show } from "../../testing/house";
import type { SurfaceActions } from "./api";
import { NamesView } from "./NamesView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const film = { is: "activity", activity: "film" };
const lamp = { is: "device", device: "lamp" };
const sheet = {
  named: [
    { of: film, own: "Feature film", names: ["Feature film"] },
    { of: lamp, own: "Projector", names: ["beamer"] },
  ],
  phrases: [
    { say: "start feature film", does: "starts Feature film", fresh: true },
    { say: "everything off", does: "finishes the room", fresh: false },
  ],
  gone: ["start disc"],
  collisions: [
    { of: lamp, name: "beamer", with: "Beam light (Loft)", why: "sounds-alike", instead: "the beamer" },
  ],
};

function open(voice: object, answer: object = sheet) {
  const saved: { voice: unknown; said: string }[] = [];
  const actions = { voice, saveVoice: (next: unknown, said: string) => saved.push({ voice: next, said }) };
  show(house(), <NamesView actions={actions as unknown as SurfaceActions} />, {
    answers: { "/voice": answer },
  });
  return saved;
}

async function rename(label: string, text: string) {
  const field = await screen.findByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
}

describe("names that people say", () => {
  it("are kept beside those of other things", async () => {
    const voice = { names: [{ of: lamp, names: ["beamer"] }], synced: null };
    const saved = open(voice);
    await rename("Names of Feature film", "film, , the big one ");
    expect(saved).toEqual([
      {
        voice: { ...voice, names: [...voice.names, { of: film, names: ["film", "the big one"] }] },
        said: "Names of Feature film saved.",
      },
    ]);
  });

  it.each(["", "Projector"])("go back to its own name with “%s”", async (text) => {
    const saved = open({ names: [{ of: lamp, names: ["beamer"] }] });
    await rename("Names of Projector", text);
    expect(saved[0]?.voice).toEqual({ names: [] });
  });

  it("that are taken for another one say which, and what to say instead", async () => {
    const saved = open({ names: [] });
    expect(await screen.findByText("1 names collide.")).toBeDefined();
    fireEvent.click(screen.getByText("Say “the beamer”"));
    expect(saved[0]?.voice).toEqual({ names: [{ of: lamp, names: ["the beamer"] }] });
  });

  it("that collide with nothing are said to", async () => {
    open({ names: [] }, { ...sheet, collisions: [] });
    expect(await screen.findByText("No name is taken for another one of the house.")).toBeDefined();
  });
});

describe("the sheet of phrases", () => {
  it("tells what has changed since the voice service was told", async () => {
    open({ names: [], synced: { at: "2026-01-01T00:00:00Z", phrases: [] } });
    expect(await screen.findByText(/^Changed since last sync: 1 new, 1 gone\./)).toBeDefined();
    expect(screen.getByText("“start disc”").closest("tr")?.textContent).toContain("gone");
  });

  it("says that it was never told, and marks what it is told now", async () => {
    const saved = open({ names: [] });
    expect(await screen.findByText("The voice service was never told.")).toBeDefined();
    fireEvent.click(screen.getByText("Mark as synchronised"));
    expect(saved[0]).toMatchObject({
      voice: { synced: { phrases: ["start feature film", "everything off"] } },
      said: "Marked as told to the voice service.",
    });
  });
});
