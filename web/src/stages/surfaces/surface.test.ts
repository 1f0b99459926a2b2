import { describe, expect, it, test } from "vitest";
import type { HouseView, Surface, SurfaceKey, SurfacePage } from "../../api/types";
import {
  blank,
  cellOf,
  closedUp,
  covers,
  DOES,
  doesWords,
  firstDoes,
  firstLit,
  freeCell,
  freshKey,
  LITS,
  moved,
  neighbour,
  without,
} from "./surface";

const house = {
  rooms: [
    {
      id: "r",
      name: "Loft",
      lighting: {
        zones: [{ id: "z", name: "Lamp" }],
        looks: [{ id: "l", name: "Film" }],
        switches: [{ id: "s", name: "Guests" }],
        cues: [],
      },
    },
  ],
  activities: [{ id: "a", name: "Watch", room: "r", extras: { favourites: [{ name: "News" }] } }],
  devices: [{ id: "d", name: "Player", room: "r", profile: "p", overrides: [] }],
  behaves: { d: { serves: ["r"], own: null } },
  profiles: [
    {
      id: "p",
      kind: "streamer",
      functions: [{ id: "f", name: "Play" }],
      inputs: [{ id: "i", name: "Disc" }],
      apps: [{ name: "Tideline" }],
      modes: [{ name: "Picture", values: [{ name: "Cinema" }] }],
    },
  ],
} as unknown as HouseView;

function key(id: string, column: number, row: number, wide = 1): SurfaceKey {
  return { ...freshKey(phone, empty), id, label: id, column, row, wide };
}

const phone: Surface = { ...blank("phone", []), id: "s", columns: 4, rows: 3 };
const empty: SurfacePage = { id: "p", name: "Page", activity: null, keys: [], without: [] };
const page: SurfacePage = { ...empty, keys: [key("one", 0, 0, 2), key("two", 2, 0), key("three", 0, 2)] };

describe("the grid", () => {
  it("has cells of the size of the thing", () => {
    expect(cellOf({ ...phone, width_mm: 64, height_mm: 138, rows: 10 })).toEqual([16, 13.8]);
    // A tablet shows two pages side by side.
    expect(cellOf({ ...blank("tablet", []), width_mm: 220, columns: 4 })[0]).toBe(27.5);
  });

  it("finds what is free and what is covered", () => {
    expect(freeCell(phone, page.keys)).toEqual([3, 0]);
    expect(covers(key("x", 1, 0), key("y", 0, 0, 2))).toBe(true);
    expect(covers(key("x", 2, 0), key("y", 0, 0, 2))).toBe(false);
  });

  it("moves a key where it is free, and nowhere else", () => {
    const two = page.keys[1] as SurfaceKey;
    expect(moved(phone, page, two, 1, 0)).toBeUndefined();
    expect(moved(phone, page, two, 4, 0)).toBeUndefined();
    const next = moved(phone, page, two, 3, 1);
    expect(next?.keys[1]).toMatchObject({ column: 3, row: 1, by_hand: true });
    const remote = { ...phone, kind: "hand-remote" as const };
    expect(moved(remote, page, two, 2, 3)).toBeUndefined();
  });

  it("closes empty rows and marks what moved as made by hand", () => {
    const closed = closedUp({ ...page, keys: page.keys.map((known) => ({ ...known, by_hand: false })) });
    expect(closed.keys.map((known) => known.row)).toEqual([0, 0, 1]);
    expect(closed.keys.map((known) => known.by_hand)).toEqual([false, false, true]);
  });

  it("remembers what was taken away", () => {
    const role = { is: "room-off" as const };
    const own = { ...key("off", 3, 0), role };
    expect(without({ ...page, keys: [...page.keys, own] }, own)).toMatchObject({ without: [role] });
  });

  it("finds the next key in a direction", () => {
    const [one, two, three] = page.keys as [SurfaceKey, SurfaceKey, SurfaceKey];
    expect(neighbour(page.keys, one, "right")).toBe(two);
    expect(neighbour(page.keys, one, "down")).toBe(three);
    expect(neighbour(page.keys, three, "up")).toBe(one);
    expect(neighbour(page.keys, one, "left")).toBeUndefined();
  });
});

test.each(DOES)("%s begins with something that is there, and has words", (kind) => {
  const does = firstDoes(house, "r", { ...phone, pages: [page] }, kind);
  expect(does.does).toBe(kind);
  const words = doesWords(house, "r", { ...phone, pages: [page] }, does);
  expect(words).not.toContain("gone");
  expect(words).not.toContain("removed");
});

test.each(LITS)("%s begins with something that is there", (when) => {
  const lit = firstLit(house, "r", when);
  if (when === "never") expect(lit).toBeNull();
  else expect(Object.values(lit ?? {})).not.toContain("");
});

test("a second surface of a kind has a name of its own", () => {
  expect(blank("phone", ["Phone", "Phone 2"]).name).toBe("Phone 3");
});
