// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { act } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { house, show } from "../../testing/house";
import { EveningView } from "./EveningView";

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const light = Array.from({ length: 101 }, (_, level) => (level * level) / 100);

/** From 20:00 on: the walls fade from 100 to 20 % in the first half hour. */
const evening = (part: object = {}) => ({
  start_min: 20 * 60,
  length_ms: 120 * 60_000,
  sunrise_ms: null,
  sunset_ms: 30 * 60_000,
  dark_at_start: false,
  lines: [
    {
      zone: "walls",
      points: [
        { at_ms: 0, level: 100 },
        { at_ms: 30 * 60_000, level: 20 },
        { at_ms: 120 * 60_000, level: 20 },
      ],
      light,
    },
  ],
  fired: [
    { at_ms: 15 * 60_000, cue: "start", held: null },
    { at_ms: 60 * 60_000, cue: "pause", held: "nobody is in the room" },
  ],
  done: [{ at_ms: 20 * 60_000, text: "The blind goes down." }],
  events: [{ at_ms: 10 * 60_000, act: { does: "transport", to: "playing", way: "our-key" } }],
  ...part,
});

const sheet = {
  lines: [
    { cue: "start", moment: "the film starts", light: "Walls to 20 % in 30 min" },
    { cue: "pause", moment: "the film is paused", light: "Walls to 60 %" },
  ],
};

function view(answer: object = evening(), zones = [{ id: "walls", name: "Walls" }]) {
  const lighting = { zones, looks: [], cues: [], switches: [], exit: null };
  return show(
    house({
      rooms: [{ id: "hall", name: "Hall", position: 0, lighting }] as never,
      activities: [{ id: "film", name: "Feature film", room: "hall", position: 0 }] as never,
    }),
    <EveningView />,
    { answers: { "/evening": answer, "/cues": sheet } },
  );
}

const asked = (seen: ReturnType<typeof view>) =>
  seen.asked.filter((one) => one.path.endsWith("/evening")).map((one) => JSON.stringify(one.body));

describe("an evening", () => {
  it("is drawn zone by zone, with the sun, and the levels of a moment in words", async () => {
    view();
    const drawing = await screen.findByRole("img", { name: "Levels of 1 zones over 120 minutes" });
    expect(drawing.textContent).toContain("sunset");
    expect(drawing.textContent).not.toContain("sunrise");
    // A quarter of it: 20:30, when the walls have arrived.
    const levels = screen.getByTestId("levels");
    expect(levels.textContent).toContain("20:30");
    expect(levels.textContent).toContain("Walls 20 %");
  });

  it("is looked at at any moment", async () => {
    view();
    const moment = await screen.findByLabelText("Moment of the evening");
    fireEvent.change(moment, { target: { value: String(15 * 60_000) } });
    expect(screen.getByTestId("levels").textContent).toContain("20:15");
    expect(screen.getByTestId("levels").textContent).toContain("Walls 60 %");
    expect(moment.getAttribute("aria-valuetext")).toBe("20:15");
  });

  it("says what fired, what was done, and what did not fire and why, in the order of time", async () => {
    view();
    const table = await screen.findByRole("table", { name: "What fired" });
    await waitFor(() => expect(table.textContent).toContain("the film starts"));
    const rows = within(table)
      .getAllByRole("row")
      .slice(1)
      .map((row) => row.textContent);
    expect(rows).toEqual([
      "20:15the film startsWalls to 20 % in 30 min",
      "20:20The blind goes down.",
      "21:00the film is pauseddid not fire: nobody is in the room",
    ]);
    await userEvent.click(within(table).getByRole("button", { name: "21:00" }));
    expect(screen.getByTestId("levels").textContent).toContain("21:00");
  });

  it("can be drawn as the light that lamps give", async () => {
    view();
    await screen.findByTestId("levels");
    const curve = () => document.querySelector("polyline")?.getAttribute("points");
    const before = curve();
    await userEvent.selectOptions(screen.getByLabelText("What is drawn"), "light");
    expect(curve()).not.toBe(before);
  });

  it("of another day and hour is asked for anew", async () => {
    const seen = view();
    await screen.findByTestId("levels");
    fireEvent.change(screen.getByLabelText("Date"), { target: { value: "2027-06-21" } });
    await waitFor(() => expect(asked(seen).some((body) => body.includes("2027-06-21T20:00"))).toBe(true));
    fireEvent.change(screen.getByLabelText("Time of the day"), { target: { value: String(18 * 60 + 30) } });
    await waitFor(() => expect(asked(seen).some((body) => body.includes("2027-06-21T18:30"))).toBe(true));
  });

  it("is brought about in another way: the same course, started by somebody else", async () => {
    const seen = view();
    await screen.findByTestId("levels");
    const way = screen.getByLabelText("How playback is started");
    const other = within(way)
      .getAllByRole("option")
      .map((one) => (one as HTMLOptionElement).value);
    const next = other.find((one) => one !== "our-key") ?? "";
    await userEvent.selectOptions(way, next);
    await waitFor(() => expect(asked(seen).at(-1)).toContain(`"way":"${next}"`));
  });

  it("plays, and can be held", async () => {
    view();
    await screen.findByTestId("levels");
    vi.useFakeTimers();
    fireEvent.click(screen.getByRole("button", { name: "Play" }));
    act(() => void vi.advanceTimersByTime(500));
    fireEvent.click(screen.getByRole("button", { name: "Hold" }));
    expect(screen.getByTestId("levels").textContent).toContain("20:32");
    act(() => void vi.advanceTimersByTime(500));
    expect(screen.getByTestId("levels").textContent).toContain("20:32");
  });

  it("in which nothing fires says so", async () => {
    view(evening({ fired: [], done: [] }));
    expect(await screen.findByText("No cue fires in these two hours.")).toBeTruthy();
  });

  it("of a room without zones says what to do first", () => {
    view(evening(), []);
    expect(screen.getByText(/^No zone yet: name what is dimmed together/)).toBeTruthy();
  });
});
