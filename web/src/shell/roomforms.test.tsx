// @vitest-environment jsdom
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Room } from "../api/types";
import { device, house, model, show } from "../testing/house";
import { ExportSheet } from "../stages/codes/ExportSheet";
import { StartsView } from "../stages/cues/StartsView";
import { AddRoom } from "./AddRoom";
import { RemoveRoom } from "./RemoveRoom";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("a room that is removed", () => {
  const goes = {
    devices: ["Amp", "Display"],
    codes: 12,
    activities: ["Feature film"],
    cues: 0,
    surfaces: 2,
    stories: 0,
    moved: [{ device: "Disc player", room: "Loft" }],
  };
  const part = (answer: object, refuse?: string) => {
    const [say, onClose] = [vi.fn(), vi.fn()];
    const view = house();
    const seen = show(
      view,
      <RemoveRoom house={view} room={view.rooms[0] as Room} say={say} onClose={onClose} />,
      { answers: { "/goes": answer, "/removal": answer, "/what-goes": answer }, ...(refuse && { refuse }) },
    );
    return { seen, say, onClose };
  };

  it("says what goes with it, and what stays because another room uses it", async () => {
    part(goes);
    const group = await screen.findByRole("group", { name: "Remove Hall" });
    expect(group.textContent).toContain(
      "With it go 2 devices, 12 codes, 1 activity, 2 surfaces. Amp, Display.",
    );
    expect(group.textContent).toContain("Disc player stays: Loft uses it");
  });

  it("goes only after that was read, and is kept otherwise", async () => {
    const { onClose } = part(goes);
    await userEvent.click(await screen.findByRole("button", { name: "Keep it" }));
    expect(onClose).toHaveBeenCalled();
  });

  it("that is empty says so, and says that undo brings it back", async () => {
    const { say } = part({ ...goes, devices: [], codes: 0, activities: [], surfaces: 0, moved: [] });
    expect((await screen.findByRole("group", { name: "Remove Hall" })).textContent).toContain(
      "Nothing is in it.",
    );
    await userEvent.click(screen.getByRole("button", { name: "Remove Hall" }));
    await waitFor(() =>
      expect(say).toHaveBeenCalledWith(expect.stringContaining("Undo brings all of it back.")),
    );
  });

  it("stays where the server refuses", async () => {
    const { onClose } = part(goes, "The room is in use.");
    await userEvent.click(await screen.findByRole("button", { name: "Remove Hall" }));
    expect(await screen.findByText("The room is in use.")).toBeTruthy();
    expect(onClose).not.toHaveBeenCalled();
  });
});

describe("a new room", () => {
  const part = (first = false) => {
    const [say, added] = [vi.fn(), vi.fn()];
    const view = house();
    const seen = show(view, <AddRoom house={view} say={say} onAdded={added} first={first} />);
    return { seen, say, added };
  };

  it("is the first thing of a house that has none", () => {
    part(true);
    expect(screen.getByText("This house has no room yet. Add the first one.")).toBeTruthy();
  });

  it("has a name and what it begins with", async () => {
    const { seen, say } = part();
    await userEvent.type(screen.getByLabelText("Name of a new room"), "Attic");
    await userEvent.click(screen.getByRole("button", { name: "Add the room" }));
    await waitFor(() => expect(say).toHaveBeenCalledWith("Saved."));
    expect(JSON.stringify(seen.asked.at(-1)?.body)).toContain("Attic");
    expect(screen.getByLabelText("Name of a new room")).toHaveProperty("value", "");
  });

  it("keeps its name while something else is looked at", async () => {
    part();
    await userEvent.type(screen.getByLabelText("Name of a new room"), "Att");
    cleanup();
    part();
    expect(screen.getByLabelText("Name of a new room")).toHaveProperty("value", "Att");
  });
});

describe("an export of codes", () => {
  it("is of a device, the room or the house, in every format", async () => {
    const view = house({ profiles: [model("receiver", "amp")], devices: [device("amp", "Amp")] });
    show(view, <ExportSheet devices={view.devices} first="amp" onClose={() => undefined} />);
    const link = (name: string) => screen.getByRole("link", { name }).getAttribute("href");
    expect(screen.getAllByRole("link")).toHaveLength(5);
    expect(link("Save as Code set, CSV")).toBe("/api/houses/h/codes.export?device=amp&format=csv");
    await userEvent.click(screen.getByRole("combobox", { name: "Whose codes" }));
    await userEvent.click(await screen.findByRole("option", { name: "House" }));
    expect(link("Save as Value change dump")).toBe("/api/houses/h/codes.export?format=vcd");
  });
});

describe("the ways in which playback starts", () => {
  const start = (transport: string, way: string, caught_by: string[]) => ({
    device: "box",
    transport,
    way,
    caught_by,
    remedy: "Let the source say what it does.",
  });
  const view = (starts: object[]) => {
    const lines = [{ cue: "a", moment: "the film starts" }];
    const own = house({ profiles: [model("streamer", "box")], devices: [device("box", "Streamer")] });
    show(own, <StartsView />, { answers: { "/cues": { lines, starts } } });
  };

  it("are listed with what catches each, and what would", async () => {
    view([start("playing", "our-key", ["a"]), start("playing", "own-remote", [])]);
    expect(await screen.findByText("1 of 2 ways are caught by nothing.")).toBeTruthy();
    const [, first, second] = screen.getAllByRole("row");
    expect(first?.textContent).toContain("Streamerstarts");
    expect(first?.textContent).toContain("the film starts");
    expect(second?.textContent).toContain("nothing. Let the source say what it does.");
  });

  it("may all be caught, or be none", async () => {
    view([start("playing", "our-key", ["a"])]);
    expect(await screen.findByText("Every way is caught.")).toBeTruthy();
    cleanup();
    view([]);
    expect(await screen.findByText("No source with a picture plays in this room.")).toBeTruthy();
  });
});
