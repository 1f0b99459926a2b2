// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { TrialReport, TrialView } from "../../api/types";
import { house, show } from "../../testing/house";
import { Playing } from "./StoriesView";
import { TrialsView } from "./TrialsView";

afterEach(cleanup);

const trials = "/api/houses/h/rooms/hall/trials";
const asked = { evenings: 20, seed: 1, hands: true, faults: true };
const trial = (part: Partial<TrialView>): TrialView => ({
  asked,
  waiting: false,
  done: 0,
  report: null,
  failed: null,
  ...part,
});
const report: TrialReport = {
  asked,
  evenings: 20,
  runs: 31,
  ready: 12,
  sent: 8,
  told: 0,
  wrong: 0,
  wrongs: [],
  simulated_ms: 7_200_000,
  took_ms: 2_000,
};

function shown(view: TrialView | null) {
  return show(house(), <TrialsView play={() => undefined} />, { answers: { [trials]: view } });
}

describe("trials", () => {
  it("are asked for with what was typed", async () => {
    const seen = shown(null);
    expect(await screen.findByText(/The same number always gives the same evenings/)).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Evenings"), { target: { value: "7" } });
    fireEvent.click(screen.getByLabelText("Things break"));
    fireEvent.click(screen.getByRole("button", { name: "Try" }));
    await waitFor(() =>
      expect(seen.asked).toContainEqual({
        method: "POST",
        path: trials,
        body: { evenings: 7, seed: 1, hands: true, faults: false },
      }),
    );
  });

  it("say how far they are, and can be cancelled", async () => {
    const seen = shown(trial({ done: 4 }));
    expect(await screen.findByText("4 of 20 evenings")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
    await waitFor(() => expect(seen.asked.map((one) => one.method)).toContain("DELETE"));
  });

  it("that wait for others say so", async () => {
    shown(trial({ waiting: true }));
    expect(await screen.findByText("They begin when what runs now has ended")).toBeTruthy();
  });

  it("that failed say so, and can be tried again", async () => {
    shown(trial({ failed: "The run ended unexpectedly: that is a fault of this program. Try again." }));
    const told = await screen.findByText(/The trials of 20 evenings came to nothing\. The run ended/);
    expect(told).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Cancel" })).toBeNull();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Try" }).disabled).toBe(false);
  });

  it("that were cancelled say after how many evenings", async () => {
    shown(trial({ done: 9, report: { ...report, evenings: 9 } }));
    expect((await screen.findByTestId("trial-report")).textContent).toMatch(
      /^Cancelled after 9 of 20 evenings, none ended wrong/,
    );
  });
});

describe("an evening that is played", () => {
  it("says how far it is and can be stopped", () => {
    const stop = vi.fn();
    show(house(), <Playing playing={{ done: 2, of: 5, under_way: true, refused: [] }} stop={stop} />);
    expect(screen.getByRole("status").textContent).toBe("An evening is being played: 2 of 5 events so far.");
    fireEvent.click(screen.getByRole("button", { name: "Stop playing" }));
    expect(stop).toHaveBeenCalledOnce();
  });

  it("is not told of once it is over, unless something could not be done", () => {
    show(house(), <Playing playing={{ done: 5, of: 5, under_way: false, refused: [] }} stop={vi.fn()} />);
    expect(screen.queryByTestId("playing")).toBeNull();
    cleanup();
    const refused = ["That device is not in this room any more."];
    show(house(), <Playing playing={{ done: 5, of: 5, under_way: false, refused }} stop={vi.fn()} />);
    expect(screen.getByTestId("playing").textContent).toMatch(
      /was played: 5 events\.That device is not in this room/,
    );
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("that was stopped says after how many of its events", () => {
    const refused = ["That device is not in this room any more."];
    show(house(), <Playing playing={{ done: 2, of: 5, under_way: false, refused }} stop={vi.fn()} />);
    expect(screen.getByRole("status").textContent).toBe("The evening was stopped after 2 of 5 events.");
  });
});
