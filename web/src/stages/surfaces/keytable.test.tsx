// @vitest-environment jsdom
import { cleanup, fireEvent, screen, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Activity, Surface, SurfaceKey, SurfacePage } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { KeyTable } from "./KeyTable";
import { PageGrid } from "./PageGrid";

afterEach(cleanup);

const key = (id: string, row: number, part: Partial<SurfaceKey> = {}): SurfaceKey =>
  ({
    id,
    label: id,
    column: 0,
    row,
    bindings: [{ does: { does: "mute" } }],
    lit: null,
    ...part,
  }) as SurfaceKey;

const page = {
  id: "p1",
  name: "Film",
  keys: [key("Second", 1, { lit: { when: "muted" } }), key("First", 0), key("Third", 2, { bindings: [] })],
} as unknown as SurfacePage;
const surface = {
  id: "s1",
  kind: "phone",
  width_mm: 64,
  height_mm: 138,
  columns: 4,
  rows: 10,
  pages: [page],
};

const view = () =>
  house({
    profiles: [model("receiver", "amp")],
    devices: [device("amp", "Amp")],
    activities: [{ id: "film", name: "Film", room: "hall", position: 0 } as Activity],
  });

const answers = {
  "/keys": [
    { key: "First", does: { does: "activity", activity: "film" }, held: "repeats" },
    { key: "First", gesture: "hold", does: { does: "stop-all" } },
    { key: "First", gesture: "double-tap", does: { does: "before" } },
    { key: "Second", does: { does: "mute" } },
  ],
};

describe("what each key does", () => {
  it("is told by the server, in the order of the grid", async () => {
    const chosen = vi.fn();
    const seen = show(
      view(),
      <KeyTable surface={surface as Surface} page={page} activity="film" onChoose={chosen} />,
      { answers },
    );
    expect(await screen.findAllByText("Film")).toHaveLength(1);
    const rows = screen.getAllByRole("row").slice(1);
    expect(rows.map((row) => within(row).getByRole("button").textContent)).toEqual([
      "First",
      "Second",
      "Third",
    ]);
    const [first, second, third] = rows.map((row) => row.textContent);
    expect(first).toContain("twice: the activity before, held: stops what runs and moves, again while held");
    expect(second).toContain("while the sound is off");
    expect(third).toContain("nothing here");
    fireEvent.click(screen.getByRole("button", { name: "Second" }));
    expect(chosen).toHaveBeenCalledWith("Second");
    expect(seen.asked.map((asked) => asked.path)).toContain("/api/houses/h/rooms/hall/surfaces/s1/keys");
  });

  it("is not said before it is known", () => {
    show(
      view(),
      <KeyTable surface={surface as Surface} page={page} activity={undefined} onChoose={vi.fn()} />,
    );
    expect(screen.queryByText(/nothing/)).toBeNull();
  });
});

describe("the grid of a page", () => {
  const none = () => undefined;
  const grid = (activity?: string) =>
    show(
      view(),
      <PageGrid
        surface={surface as Surface}
        page={page}
        scale={1}
        chosen={undefined}
        activity={activity}
        onChoose={none}
        onMove={none}
        onRemove={none}
      />,
      { answers },
    );

  it("shows which keys do nothing in an activity", async () => {
    grid("film");
    const face = (name: string) => screen.getByRole("button", { name });
    await vi.waitFor(() => expect(face("Third").className).toContain("border-dashed"));
    expect(face("First").className).not.toContain("border-dashed");
    expect(face("Second").className).not.toContain("border-dashed");
  });

  it("moves a key with Shift and an arrow, and leaves it where there is no room", () => {
    const moved = vi.fn<(page: SurfacePage) => void>();
    show(
      view(),
      <PageGrid
        surface={surface as Surface}
        page={page}
        scale={1}
        chosen="First"
        activity={undefined}
        onChoose={none}
        onMove={moved}
        onRemove={none}
      />,
      { answers },
    );
    const first = screen.getByRole("button", { name: "First" });
    fireEvent.keyDown(first, { key: "ArrowDown", shiftKey: true });
    expect(moved).not.toHaveBeenCalled();
    fireEvent.keyDown(first, { key: "ArrowRight", shiftKey: true });
    expect(moved.mock.calls[0]?.[0].keys.find((known) => known.id === "First")).toMatchObject({
      column: 1,
      row: 0,
      by_hand: true,
    });
  });
});
