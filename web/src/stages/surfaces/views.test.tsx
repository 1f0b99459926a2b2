// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Surface } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import type { SurfaceActions } from "./api";
import { CoverView } from "./CoverView";
import { LabelsView } from "./LabelsView";
import { LinksView } from "./LinksView";

beforeEach(() => localStorage.clear());

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const keyOf = (id: string, label: string) => ({ id, label, column: 0, row: 0 });
const surface = {
  id: "remote",
  name: "Sofa remote",
  kind: "hand-remote",
  width_mm: 52,
  height_mm: 180,
  letter_tenths_mm: 35,
  pages: [
    { id: "p1", name: "First", keys: [keyOf("k1", "Film"), keyOf("k2", "Louder")] },
    { id: "p2", name: "Second", keys: [] },
  ],
} as unknown as Surface;

function actions() {
  const save = vi.fn();
  return { save, all: { save } as unknown as SurfaceActions };
}

const own = () =>
  house({
    profiles: [model("receiver", "amp")],
    devices: [device("amp", "Amp")],
    activities: [{ id: "film", name: "Film", room: "hall", position: 0 }] as never,
  });

describe("labels at true scale", () => {
  const trying = { days_in_use: 20, changes: 1, days_quiet: 16, offered: true, why_not: null };
  const fits = [
    { key: "k1", label: "Film", letters: 8, lines: 1, fits: true, set: ["Film"] },
    { key: "k2", label: "Much too long", letters: 6, lines: 1, fits: false, set: [] },
  ];
  const view = (part: Partial<Surface> = {}, sheet: object = { fits, trying, cover: [], guest: [] }) => {
    const { save, all } = actions();
    show(own(), <LabelsView surface={{ ...surface, ...part }} actions={all} />, {
      answers: { "/surfaces/remote": sheet },
    });
    return save;
  };

  it("say which do not fit, first of all, and what to do", async () => {
    view();
    const section = await screen.findByRole("region", { name: "How the labels fit" });
    expect(section.textContent).toContain("1 of 2 labels do not fit.");
    const rows = within(section).getAllByRole("row");
    expect(rows[1]?.textContent).toContain("Much too long");
    expect(rows[1]?.textContent).toContain("does not fit: shorten it");
    expect(screen.getByRole("img", { name: "Engraving sheet of Sofa remote, at true scale" })).toBeTruthy();
  });

  it("have letters of a height that is saved in tenths of a millimetre", async () => {
    const save = view();
    const height = await screen.findByLabelText("Height of capitals in mm");
    fireEvent.change(height, { target: { value: "4.2" } });
    fireEvent.blur(height);
    await waitFor(() => expect(save).toHaveBeenCalledTimes(1));
    expect(save.mock.calls[0]?.[0]).toMatchObject({ letter_tenths_mm: 42 });
  });

  it("are tried before anything is cut", async () => {
    const waiting = { ...trying, offered: false, why_not: "Nobody has tried it yet." };
    const save = view({}, { fits, trying: waiting, cover: [], guest: [] });
    const trial = await screen.findByRole("region", { name: "Trial" });
    expect(trial.textContent).toContain("Nobody has tried it yet.");
    await userEvent.click(within(trial).getByRole("button", { name: "Begin a trial" }));
    expect(save.mock.calls[0]?.[0]).toMatchObject({ trial: { quiet_days: 14 } });
  });

  it("count the days of a trial, whose length can be changed and which can be ended", async () => {
    const save = view({ trial: { since: "2026-11-01T00:00:00Z", quiet_days: 14 } });
    const trial = await screen.findByRole("region", { name: "Trial" });
    expect(trial.textContent).toContain("In use for 20 days, 1 change since; unchanged for 16 days.");
    expect(trial.textContent).toContain("Ready to be engraved.");
    fireEvent.change(within(trial).getByLabelText("Quiet days"), { target: { value: "21" } });
    fireEvent.blur(within(trial).getByLabelText("Quiet days"));
    await waitFor(() => expect(save.mock.calls[0]?.[0]).toMatchObject({ trial: { quiet_days: 21 } }));
    await userEvent.click(within(trial).getByRole("button", { name: "End the trial" }));
    expect(save.mock.calls[1]?.[0]).toMatchObject({ trial: null });
  });
});

describe("links to a surface", () => {
  const link = { token: "abcdefghijklmnop", surface: "remote", label: "Mother", used_at: null };
  const view = (part: Partial<Surface> = {}, links: object[] = [link]) => {
    const { save, all } = actions();
    const seen = show(own(), <LinksView surface={{ ...surface, ...part }} actions={all} />, {
      answers: { "/surface-links": links },
    });
    return { save, seen };
  };

  it("are listed with whose they are and when they were opened, those of this surface alone", async () => {
    view({}, [link, { ...link, token: "other", surface: "wall", label: "Uncle" }]);
    const table = await screen.findByRole("table", { name: "Links" });
    expect(within(table).getAllByRole("row")).toHaveLength(2);
    expect(table.textContent).toContain("Mother");
    expect(table.textContent).toContain("never");
    expect(within(table).getByRole("link").getAttribute("href")).toBe("/s/abcdefghijklmnop");
  });

  it("are made for somebody, and withdrawn", async () => {
    const { seen } = view();
    const make = screen.getByRole("button", { name: "Make a link" });
    expect(make).toHaveProperty("disabled", true);
    await userEvent.type(screen.getByLabelText("Whose link"), "Aunt");
    await userEvent.click(make);
    await waitFor(() => expect(seen.said).toEqual(["Link made for Aunt."]));
    const made = seen.asked.find((asked) => asked.method === "POST");
    expect(made?.body).toMatchObject({ surface: "remote", label: "Aunt" });
    await userEvent.click(await screen.findByRole("button", { name: "Withdraw" }));
    await waitFor(() => expect(seen.said).toContain("Link of Mother withdrawn."));
    expect(
      seen.asked.some((asked) => asked.method === "DELETE" && asked.path.includes("abcdefghijklmnop")),
    ).toBe(true);
  });

  it("let people change light within limits, or not at all", async () => {
    const { save } = view();
    await userEvent.click(screen.getByRole("checkbox", { name: /^They dim the zones/ }));
    expect(save.mock.calls[0]?.[0]).toMatchObject({ may: { least_percent: 5, most_percent: 80 } });
    cleanup();
    const later = view({ may: { least_percent: 5, most_percent: 80 } as never });
    const brightest = screen.getByLabelText("Brightest in percent");
    fireEvent.change(brightest, { target: { value: "60" } });
    fireEvent.blur(brightest);
    await waitFor(() => expect(later.save.mock.calls[0]?.[0]).toMatchObject({ may: { most_percent: 60 } }));
  });

  it("are none at first", async () => {
    view({}, []);
    expect(await screen.findByText("No link yet.")).toBeTruthy();
  });
});

describe("what the old remotes could", () => {
  const line = (name: string, cover: object) => ({ device: "amp", function: name, name, cover });
  const cover = [
    line("Power on", { is: "by-activities" }),
    line("Volume up", { is: "bound", key: "k2", page: "p1", gesture: "tap", presses: 1 }),
    line("Sleep", { is: "missing" }),
    line("Service", { is: "impossible", why: "It has no code." }),
  ];
  const guest = [
    {
      activity: "film",
      missing: null,
      presses: [
        { key: "k1", label: "Film", unclear: null },
        { key: "k2", label: "", unclear: "no label says what it does" },
      ],
    },
  ];
  const sheet = { cover, guest, fits: [], trying: {} };

  it("is counted against the surface, and leads to the keys", async () => {
    const onKey = vi.fn();
    show(own(), <CoverView surface={surface} onKey={onKey} />, { answers: { "/surfaces/remote": sheet } });
    const section = await screen.findByRole("region", { name: "Functions of the old remotes" });
    expect(section.textContent).toContain(
      "1 of 4 functions are on a key, 1 are sent by activities, 1 missing, 1 cannot be sent.",
    );
    expect(section.textContent).toContain("It has no code.");
    await userEvent.click(within(section).getByRole("button", { name: /^Louder/ }));
    expect(onKey).toHaveBeenCalledWith("k2");
  });

  it("is tried by a guest who sees the labels only", async () => {
    const onKey = vi.fn();
    show(own(), <CoverView surface={surface} onKey={onKey} />, { answers: { "/surfaces/remote": sheet } });
    const test = await screen.findByRole("region", { name: "Guest test" });
    expect(test.textContent).toContain("Film 2 presses");
    expect(test.textContent).toContain("no label says what it does");
    await userEvent.click(within(test).getByRole("button", { name: "no label" }));
    expect(onKey).toHaveBeenCalledWith("k2");
  });
});
