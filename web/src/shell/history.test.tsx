// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { HistoryStep, HouseView, Notes } from "../api/types";
import { device, house, model, show } from "../testing/house";
import { Logbook } from "./Logbook";
import { Palette } from "./Palette";
import { Passage } from "./Passage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const none = () => undefined;
const step = (title: string, who: string): HistoryStep =>
  ({ title, who, at: "2026-01-01T00:00:00Z" }) as HistoryStep;

function passage(onStep = none as (kind: "undo" | "redo") => void) {
  return (
    <Passage
      stage="kit"
      notes={undefined as Notes | undefined}
      theme="light"
      onTheme={none}
      onRooms={none}
      onMargin={none}
      onPalette={none}
      onStep={onStep}
    />
  );
}

describe("undo and redo in the bar", () => {
  it("say what they would do, and whose it is", () => {
    localStorage.setItem("kestrel-who", "Ana");
    const view = house({ undo: step("Lantern", "Ben"), redo: step("Barn", "Ana") });
    const steps: string[] = [];
    show(
      view,
      passage((kind) => steps.push(kind)),
    );
    fireEvent.click(screen.getByLabelText("Undo: Lantern (by Ben)"));
    fireEvent.click(screen.getByLabelText("Redo: Barn"));
    expect(steps).toEqual(["undo", "redo"]);
  });

  it("cannot be pressed where there is nothing", () => {
    show(house(), passage());
    expect(screen.getByLabelText<HTMLButtonElement>("Nothing to undo").disabled).toBe(true);
    expect(screen.getByLabelText<HTMLButtonElement>("Nothing to redo").disabled).toBe(true);
  });

  it("stand beside where one is", () => {
    show(house(), passage());
    expect(screen.getByRole("heading").textContent).toBe("House ▸ Hall");
    expect(screen.getByRole("link", { name: /Kit/ }).getAttribute("aria-current")).toBe("page");
    expect(screen.getByRole("link", { name: /Codes/ }).getAttribute("href")).toBe(
      "/houses/h/rooms/hall/codes",
    );
  });
});

describe("the logbook", () => {
  const lines = [
    { revision: 8, at: "2026-01-01T20:30:00Z", who: "Ana", title: "Lantern renamed.", undone: true },
    { revision: 7, at: "2026-01-01T20:00:00Z", who: "someone", title: "Barn added.", undone: false },
  ];

  it("tells every change, newest first, who made it, and what was undone", async () => {
    show(house(), <Logbook open onClose={none} />, { answers: { "/log": lines } });
    await screen.findByText("Barn added.");
    const rows = [...document.querySelectorAll("tbody tr")].map((row) =>
      [...row.children].map((cell) => cell.textContent),
    );
    expect(rows.map(([nr, , who, what]) => [nr, who, what])).toEqual([
      ["8", "Ana", "Lantern renamed.(undone)"],
      ["7", "someone", "Barn added."],
    ]);
  });

  it("says that nothing was changed yet", async () => {
    show(house(), <Logbook open onClose={none} />, { answers: { "/log": [] } });
    expect(await screen.findByText("Nothing has been changed yet.")).toBeDefined();
  });

  it("says why it cannot be read", async () => {
    show(house(), <Logbook open onClose={none} />);
    expect(await screen.findByText(/There is none\./)).toBeDefined();
  });

  it("keeps the name under which the changes of this browser stand", () => {
    show(house(), <Logbook open onClose={none} />, { answers: { "/log": [] } });
    const name = screen.getByPlaceholderText("someone");
    fireEvent.change(name, { target: { value: " Ana " } });
    expect(localStorage.getItem("kestrel-who")).toBe("Ana");
  });

  it("is read only while it is open", () => {
    const seen = show(house(), <Logbook open={false} onClose={none} />, { answers: { "/log": [] } });
    expect(seen.asked).toEqual([]);
  });
});

describe("the palette", () => {
  const view = house({
    profiles: [model("screen", "screen")],
    devices: [device("screen", "Fore screen")],
    activities: [{ id: "film", name: "Feature film", room: "hall", position: 0 }] as HouseView["activities"],
  });
  const palette = (onStep = none as (kind: "undo" | "redo") => void, onLog = none as () => void) => (
    <Palette
      open
      onClose={none}
      commands={[
        { name: "Undo", run: () => onStep("undo") },
        { name: "Redo", run: () => onStep("redo") },
        { name: "Open the logbook", run: onLog },
      ]}
    />
  );
  const find = (text: string) =>
    fireEvent.change(screen.getByPlaceholderText(/A device, a function/), { target: { value: text } });

  it.each([
    ["fore", "Fore screen", "kit"],
    ["film", "Feature film", "sequences"],
    ["stop", "Fore screen · Stop", "codes"],
    ["cues", "Cues", "cues"],
  ])("leads from “%s” to %s", async (text, name, stage) => {
    const seen = show(view, palette());
    find(text);
    fireEvent.click((await screen.findAllByText(name))[0] as HTMLElement);
    expect(seen.at).toBe(`/houses/h/rooms/hall/${stage}`);
  });

  it("does what the bar does", async () => {
    const did: string[] = [];
    show(
      view,
      palette(
        (kind) => did.push(kind),
        () => did.push("log"),
      ),
    );
    fireEvent.click(screen.getByText("Undo"));
    fireEvent.click(screen.getByText("Redo"));
    fireEvent.click(screen.getByText("Open the logbook"));
    expect(did).toEqual(["undo", "redo", "log"]);
  });

  it("says that nothing has a name", async () => {
    show(view, palette());
    find("zzzz");
    await waitFor(() => expect(screen.getByText(/Nothing in this house has that name/)).toBeDefined());
  });
});
