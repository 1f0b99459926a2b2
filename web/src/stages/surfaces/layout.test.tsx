// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Surface, SurfacePage } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import type { SurfaceActions } from "./api";
import { LayoutView } from "./LayoutView";

beforeEach(() => localStorage.clear());

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const keyOf = (id: string, label: string, row: number) => ({
  id,
  label,
  column: 0,
  row,
  wide: 1,
  tall: 1,
  bindings: [],
  role: null,
  picture: null,
  tint: null,
});

const page = (id: string, name: string, keys: object[] = []) =>
  ({ id, name, activity: null, keys, without: [] }) as unknown as SurfacePage;

const remote = (part: object = {}) =>
  ({
    id: "s",
    name: "Sofa remote",
    kind: "hand-remote",
    width_mm: 48,
    height_mm: 182,
    columns: 4,
    rows: 14,
    device: null,
    pages: [page("p", "First", [keyOf("k", "Film", 0)])],
    ...part,
  }) as unknown as Surface;

function layout(surface: Surface, answers: Record<string, unknown> = {}) {
  const calls = { save: vi.fn(), savePage: vi.fn(), saveIn: vi.fn() };
  const there = remote({ id: "t", name: "Loft remote", pages: [] });
  const view = house({
    profiles: [model("keypad", "pad")],
    devices: [device("pad", "Wall keypad")],
    activities: [{ id: "film", name: "Feature film", room: "hall", position: 0 }] as never,
    rooms: [
      { id: "hall", name: "Hall", position: 0, surfaces: [surface] },
      { id: "loft", name: "Loft", position: 1, surfaces: [there] },
    ] as never,
  });
  const seen = show(view, <LayoutView surface={surface} actions={calls as unknown as SurfaceActions} />, {
    answers,
  });
  return { ...calls, seen };
}

describe("the size of a surface", () => {
  it("is saved with its name, its grid and what sends its presses", async () => {
    const { save } = layout(remote());
    const form = screen.getByRole("form", { name: "Surface" });
    expect(within(form).getByRole("button", { name: "Save size" })).toHaveProperty("disabled", true);
    fireEvent.change(within(form).getByLabelText("Name of the surface"), {
      target: { value: "Couch remote" },
    });
    fireEvent.change(within(form).getByLabelText(/^Width/), { target: { value: "52" } });
    await userEvent.selectOptions(
      within(form).getByLabelText("Device that sends its presses"),
      "Wall keypad",
    );
    await userEvent.click(within(form).getByRole("button", { name: "Save size" }));
    expect(save.mock.calls[0]?.[0]).toMatchObject({ name: "Couch remote", width_mm: 52, device: "pad" });
  });

  it("is kept as it was typed while something else is looked at", () => {
    layout(remote());
    fireEvent.change(screen.getByLabelText("Name of the surface"), { target: { value: "Couch remote" } });
    cleanup();
    layout(remote());
    expect(screen.getByLabelText("Name of the surface")).toHaveProperty("value", "Couch remote");
  });
});

describe("keys and pages", () => {
  it("get another key, and empty rows are closed", async () => {
    const { savePage } = layout(remote({ pages: [page("p", "First", [keyOf("k", "Film", 5)])] }));
    await userEvent.click(screen.getByRole("button", { name: "Key" }));
    const added = savePage.mock.calls[0]?.[1] as SurfacePage;
    expect(added.keys).toHaveLength(2);
    expect(savePage.mock.calls[0]?.[2]).toBe("Key added. Give it something to do.");
    await userEvent.click(screen.getByRole("button", { name: "Close empty rows" }));
    const closed = savePage.mock.calls[1]?.[1] as SurfacePage;
    expect(closed.keys[0]?.row).toBe(0);
  });

  it("of glass get another page, with the key that leads back", async () => {
    const { save } = layout(remote({ kind: "phone" }));
    await userEvent.click(screen.getByRole("button", { name: "Page" }));
    const pages = (save.mock.calls[0]?.[0] as Surface).pages ?? [];
    expect(pages).toHaveLength(2);
    expect(pages[1]?.keys[0]?.bindings?.[0]?.does).toEqual({ does: "page", page: "p" });
  });

  it("of a remote with keys alone have no pages to add", () => {
    layout(remote());
    expect(screen.queryByRole("radiogroup", { name: "Page" })).toBeNull();
  });

  it("are renamed, and removed where there is another one", async () => {
    const pages = [page("p", "First"), page("q", "Second")];
    const { save, savePage } = layout(remote({ kind: "phone", pages }));
    const name = screen.getByLabelText("Name of the page");
    await userEvent.clear(name);
    await userEvent.type(name, "Start");
    await userEvent.click(screen.getByRole("button", { name: "Rename page" }));
    expect(savePage.mock.calls[0]?.[1]).toMatchObject({ id: "p", name: "Start" });
    await userEvent.click(screen.getByRole("button", { name: "Remove page" }));
    expect((save.mock.calls[0]?.[0] as Surface).pages?.map((one) => one.id)).toEqual(["q"]);
  });

  it("turn from page to page", async () => {
    layout(remote({ kind: "phone", pages: [page("p", "First"), page("q", "Second")] }));
    const second = screen.getByRole("radio", { name: "Second" });
    await userEvent.click(second);
    expect(screen.getByRole("radio", { name: "Second" }).getAttribute("aria-checked")).toBe("true");
  });

  it("are copied to another room, which says what it leaves out", async () => {
    const copied = { page: page("n", "First"), left_out: ["“Film”: there is no such activity"] };
    const { saveIn, seen } = layout(remote(), {
      "/copy": copied,
      "/surfaces/copy": copied,
      "/copy-page": copied,
    });
    await userEvent.selectOptions(screen.getByLabelText("Copy page to"), "Loft remote in Loft");
    await waitFor(() => expect(seen.asked.some((asked) => asked.method === "POST")).toBe(true));
    const path = seen.asked.find((asked) => asked.method === "POST")?.path;
    expect(path).toContain("/surfaces/");
    await waitFor(() => expect(saveIn).toHaveBeenCalled());
    expect(saveIn.mock.calls[0]?.[0]).toBe("loft");
    expect(await screen.findByText("“Film”: there is no such activity")).toBeTruthy();
  });

  it("of a surface without a page say what makes one", () => {
    layout(remote({ pages: [] }));
    expect(screen.getByText(/^No page yet:/)).toBeTruthy();
  });
});
