// @vitest-environment jsdom
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { GapDevice, TimingKnown } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { GapFinder } from "./GapFinder";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const path = { medium: "ir" as const, replies: false, through: null, tries: { lost: 1, of: 10 }, note: "" };

const gap: GapDevice = {
  device: "r",
  keys: ["Volume down"],
  number: ["Digit 1", "Digit 2"],
  known: {
    in_use: { lo_ms: 0, hi_ms: 400, basis: { from: "assumed" } },
  } as TimingKnown,
};

const hall = (paths = [path]) =>
  house({ profiles: [model("receiver", "r")], devices: [device("r", "Receiver", { paths } as never)] });

const lost = [{ pause_ms: 1000, bursts: 1, tries: { lost: 2, of: 20 }, range: { lo: 0.028, hi: 0.301 } }];
const send = { next: "send", pause_ms: 500, presses: 6, why: "Nothing was lost: half the pause." };

describe("the gap finder", () => {
  it("asks for the count of each burst in the house, and goes on with all that was counted", async () => {
    const seen = show(hall(), <GapFinder gaps={[gap]} />, { answers: { "/gap": { next: send, lost } } });
    await userEvent.click(screen.getByRole("button", { name: "Find its shortest pause" }));
    expect((await screen.findByTestId("gap-next")).textContent).toContain("6 presses, 500 ms apart.");
    await userEvent.click(screen.getByRole("button", { name: "In the house" }));
    await userEvent.click(screen.getByRole("button", { name: "It was sent; count" }));
    await userEvent.click(screen.getByRole("button", { name: "5" }));
    await waitFor(() =>
      expect(seen.asked.map((one) => one.body)).toContainEqual({
        device: "r",
        tried: [{ pause_ms: 500, sent: 6, counted: 5 }],
        longest: false,
      }),
    );
    expect(await screen.findByText("3 % to 30 %")).toBeTruthy();
  });

  it("says that a path which loses presses by itself is to be mended first", async () => {
    show(hall(), <GapFinder gaps={[gap]} />, { answers: { "/gap": { next: { next: "path-loses" }, lost } } });
    await userEvent.click(screen.getByRole("button", { name: "Find its shortest pause" }));
    expect(await screen.findByText(/the path itself loses them/)).toBeTruthy();
  });

  it("takes what was found over where it was counted in the house, and keeps it as rehearsed otherwise", async () => {
    const found = { next: "found", clean_ms: 250, pause_ms: 320 };
    const seen = show(hall(), <GapFinder gaps={[gap]} />, {
      answers: { "/gap": { next: found, lost }, "/gap/take": undefined },
    });
    await userEvent.click(screen.getByRole("button", { name: "Find its shortest pause" }));
    expect(await screen.findByRole("button", { name: "Keep it as rehearsed" })).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "In the house" }));
    await userEvent.click(screen.getByRole("button", { name: "Take 320 ms over" }));
    await waitFor(() =>
      expect(seen.asked.find((one) => one.path.endsWith("/gap/take"))?.body).toMatchObject({
        timing: "gap",
        seen: "house",
      }),
    );
  });
});

describe("the longest pause between digits", () => {
  it("enters a number instead of a key, and takes what was found as the longest", async () => {
    const next = { next: "send", pause_ms: 500, presses: 3, why: "A pause at which every device takes it." };
    const seen = show(hall(), <GapFinder gaps={[gap]} />, {
      answers: { "/gap": { next, lost: [] }, "/gap/numbers": { counted: 3 }, "/gap/take": undefined },
    });
    await userEvent.click(screen.getByRole("button", { name: "Find its shortest pause" }));
    await userEvent.click(await screen.findByRole("combobox", { name: "Which pause" }));
    await userEvent.click(await screen.findByRole("option", { name: "longest between digits" }));
    expect((await screen.findByTestId("gap-next")).textContent).toContain(
      "The number 3 times, its digits 500 ms apart.",
    );
    expect(screen.queryByRole("combobox", { name: "Key of the bursts" })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Enter the number" }));
    await waitFor(() =>
      expect(seen.asked.map((one) => one.body)).toContainEqual({
        device: "r",
        tried: [{ pause_ms: 500, sent: 3, counted: 3 }],
        longest: true,
      }),
    );
    expect(seen.asked.find((one) => one.path.endsWith("/gap/numbers"))?.body).toEqual({
      device: "r",
      pause_ms: 500,
      numbers: 3,
    });
  });
});

describe("the loss test", () => {
  it("adds what was lost to the counts of the path", async () => {
    const seen = show(hall(), <GapFinder gaps={[gap]} />, { answers: { "/gap": { next: send, lost } } });
    await userEvent.click(screen.getByText("How many presses does the path lose?"));
    expect(screen.getByText("So far 1 of 10 were lost.")).toBeTruthy();
    await userEvent.type(screen.getByRole("textbox", { name: "Presses that were counted" }), "18");
    expect((await screen.findByTestId("loss-range")).textContent).toContain("3 % to 30 % are lost");
    await userEvent.click(screen.getByRole("button", { name: "Add to the counts of its path" }));
    await waitFor(() => expect(seen.edits.length).toBe(1));
    expect(seen.edits[0]?.[0]?.entity?.value).toMatchObject({ paths: [{ tries: { lost: 3, of: 30 } }] });
  });

  it("says where to choose a way of control before anything is counted", async () => {
    show(hall([]), <GapFinder gaps={[gap]} />, { answers: { "/gap": { next: send, lost } } });
    await userEvent.click(screen.getByText("How many presses does the path lose?"));
    expect(screen.getByText(/Choose its way of control in Kit first/)).toBeTruthy();
    expect(
      screen.getByRole<HTMLButtonElement>("button", { name: "Add to the counts of its path" }).disabled,
    ).toBe(true);
  });
});
