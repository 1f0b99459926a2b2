// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { HouseView, StoryEvent } from "../../api/types";
import { house, show } from "../../testing/house";
import { KeepStory, StoriesView } from "./StoriesView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const story = { id: "s1", name: "Power cut", position: 0, events: [], length_ms: 65_000 };

function kept(stories: unknown[]): HouseView {
  const view = house({ versions: { s1: 5 } });
  const [hall] = view.rooms;
  if (hall) hall.rehearsal = { stories } as unknown as typeof hall.rehearsal;
  return view;
}

const stories = (play: (events: StoryEvent[]) => void = () => undefined) => <StoriesView play={play} />;
const replayed = (passed: boolean) => [
  {
    story: "s1",
    played: {
      passed,
      took_ms: 12,
      differences: passed ? [] : ["Lantern should be off but is on."],
      refused: [],
    },
  },
];

describe("evenings that are kept", () => {
  it("say how one comes about where there is none", () => {
    show(kept([]), stories());
    expect(screen.getByText(/No evening has been kept yet\. Press Record/)).toBeDefined();
    expect(screen.queryByText("Play all again")).toBeNull();
  });

  it.each([
    [true, /^Passed in 12 ms$/],
    [false, "Failed: Lantern should be off but is on."],
  ])("are played again, passed: %s", async (passed, said) => {
    const seen = show(kept([story]), stories(), { answers: { "/stories/replay": replayed(passed) } });
    expect(screen.getByTestId("played").textContent).toBe("not yet");
    fireEvent.click(screen.getByText("Play all again"));
    await waitFor(() => expect(screen.getByTestId("played").textContent).toMatch(said));
    expect(seen.asked[0]).toMatchObject({ method: "POST", path: "/api/houses/h/rooms/hall/stories/replay" });
  });

  it("say why they could not be played", async () => {
    show(kept([story]), stories(), { refuse: "The room is being rehearsed. Stop it first." });
    fireEvent.click(screen.getByText("Play all again"));
    expect(await screen.findByText("The room is being rehearsed. Stop it first.")).toBeDefined();
  });

  it("are watched, and removed with their own version", async () => {
    const watched: StoryEvent[][] = [];
    const seen = show(
      kept([story]),
      stories((events) => watched.push(events)),
    );
    fireEvent.click(screen.getByText("Watch"));
    expect(watched).toEqual([[]]);
    fireEvent.click(screen.getByLabelText("Remove Power cut"));
    await waitFor(() => expect(seen.edits).toEqual([[{ do: "remove", kind: "story", id: "s1", base: 5 }]]));
  });
});

describe("an evening that is being recorded", () => {
  it("is kept under a name, never without one", async () => {
    const seen = show(house(), <KeepStory />, { answers: { "/keep": {} } });
    expect(screen.getByText<HTMLButtonElement>("Keep it").disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Name of the evening"), { target: { value: "Power cut" } });
    fireEvent.click(screen.getByText("Keep it"));
    await waitFor(() => expect(seen.asked[0]?.body).toEqual({ name: "Power cut" }));
  });

  it("keeps its name where the server refuses it", async () => {
    show(house(), <KeepStory />, { refuse: "“Power cut” is taken. Choose another name." });
    fireEvent.change(screen.getByLabelText("Name of the evening"), { target: { value: "Power cut" } });
    fireEvent.click(screen.getByText("Keep it"));
    expect(await screen.findByText("“Power cut” is taken. Choose another name.")).toBeDefined();
    expect(screen.getByLabelText<HTMLInputElement>("Name of the evening").value).toBe("Power cut");
  });
});
