// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Cue } from "../../api/types";
import { house, show } from "../../testing/house";
import { CueSheetView } from "./CueSheetView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const cue = (id: string, position: number, part: object = {}) =>
  ({
    id,
    position,
    moment: { at: "time", minute: 1200 },
    provided: [],
    light: { does: "look", look: "film", fade_ms: 2000 },
    also: [],
    off: false,
    ...part,
  }) as unknown as Cue;

const line = (id: string, moment: string, part: object = {}) => ({
  cue: id,
  moment,
  provided: [],
  light: "Film in 2 s",
  also: [],
  ...part,
});

function sheet(cues: Cue[], lines: object[], part: Partial<Parameters<typeof CueSheetView>[0]> = {}) {
  const lighting = {
    zones: [
      { id: "walls", name: "Walls" },
      { id: "step", name: "Step" },
    ],
    looks: [{ id: "film", name: "Film", levels: [{ zone: "walls", percent: 20 }] }],
    cues,
    switches: [],
    exit: null,
  };
  const onOpen = vi.fn();
  const seen = show(
    house({
      rooms: [{ id: "hall", name: "Hall", position: 0, lighting }] as never,
      versions: { a: 1, b: 1 },
    }),
    <CueSheetView open={undefined} onOpen={onOpen} {...part} />,
    { answers: { "/cues": { lines, starts: [] } } },
  );
  return { seen, onOpen };
}

const two = () =>
  sheet(
    [cue("a", 0), cue("b", 1, { off: true })],
    [
      line("a", "the film starts", { provided: ["it is dark"], also: ["the blind goes down"] }),
      line("b", "the film ends"),
    ],
  );

describe("the cue sheet", () => {
  it("has a line a moment, with the level of every zone", async () => {
    two();
    const table = await screen.findByRole("table", { name: "Cue sheet" });
    const heads = within(table)
      .getAllByRole("columnheader")
      .map((head) => head.textContent);
    expect(heads.slice(0, 6)).toEqual([
      "Moment",
      "Provided",
      "Light",
      "Also",
      "Walls level in percent",
      "Step level in percent",
    ]);
    const [, first, second] = within(table).getAllByRole("row");
    expect(first?.textContent).toContain("the film starts");
    expect(first?.textContent).toContain("it is dark");
    expect(first?.textContent).toContain("the blind goes down");
    expect(first?.textContent).toContain("20 %");
    expect(second?.textContent).toContain("the film ends (left out)");
  });

  it("opens a line, and closes it again", async () => {
    const { onOpen } = two();
    await userEvent.click(await screen.findByRole("button", { name: /the film starts/ }));
    expect(onOpen).toHaveBeenCalledWith("a");
  });

  it("is put in another order, where the lower one wins", async () => {
    const { seen } = two();
    const table = await screen.findByRole("table", { name: "Cue sheet" });
    expect(within(table).getAllByRole("button", { name: "Move up" })[0]).toHaveProperty("disabled", true);
    await userEvent.click(within(table).getAllByRole("button", { name: "Move down" })[0] as HTMLElement);
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    const put = seen.edits[0]?.map((edit) => [edit.entity?.value["id"], edit.entity?.value["position"]]);
    expect(put).toEqual([
      ["b", 0],
      ["a", 1],
    ]);
    expect(seen.said[0]).toContain("the lower one wins");
  });

  it("loses a cue only by a hand, and says that undo brings it back", async () => {
    const { seen, onOpen } = sheet([cue("a", 0)], [line("a", "the film starts")], { open: "a" });
    await userEvent.click(await screen.findByRole("button", { name: "Remove this cue" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]).toMatchObject({ do: "remove", kind: "cue", id: "a" });
    expect(seen.said[0]).toContain("Undo brings it back");
    expect(onOpen).toHaveBeenCalledWith(undefined);
  });

  it("without a cue says what to begin with", async () => {
    sheet([], []);
    expect(await screen.findByText(/^No cue yet\. Add a cue: the arrival first/)).toBeTruthy();
  });

  it("takes a new cue that is nothing until it is saved", async () => {
    const onFresh = vi.fn();
    sheet([], [], { fresh: cue("n", 0), onFresh });
    const fresh = await screen.findByRole("region", { name: "New cue" });
    expect(fresh.textContent).toContain("is nothing until it is saved.");
    await userEvent.click(within(fresh).getByRole("button", { name: "Throw it away" }));
    expect(onFresh).toHaveBeenCalled();
  });
});
