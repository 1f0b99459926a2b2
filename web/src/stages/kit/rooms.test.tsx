// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { house, show } from "../../testing/house";
import { RoomSheet } from "./RoomSheet";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const sheet = <RoomSheet open onClose={() => undefined} />;
const press = (text: string) => fireEvent.click(screen.getByText(text));

describe("the rooms of a house", () => {
  it("are renamed, and only where the name differs", async () => {
    const seen = show(house({ versions: { hall: 6 } }), sheet);
    expect(screen.getByText<HTMLButtonElement>("Rename").disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Name of this room"), { target: { value: "Barn" } });
    press("Rename");
    await waitFor(() => expect(seen.said).toEqual(["Saved."]));
    expect(seen.edits).toMatchObject([
      [{ do: "put", base: 6, entity: { entity: "room", value: { id: "hall", name: "Barn" } } }],
    ]);
  });

  it("are marked as a cupboard at once", async () => {
    const seen = show(house(), sheet);
    fireEvent.click(screen.getByLabelText(/It is a cupboard or a rack/));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]).toMatchObject([{ entity: { value: { name: "Hall", rack: true } } }]);
  });

  it("are added after the last one, and opened", async () => {
    const seen = show(house(), sheet);
    fireEvent.change(screen.getByLabelText("Name of a new room"), { target: { value: "Attic" } });
    press("Add room");
    await waitFor(() => expect(seen.at).toMatch(/\/rooms\/.+\/kit$/));
    const [edit] = seen.edits[0] ?? [];
    expect(edit).toMatchObject({
      do: "put",
      entity: { entity: "room", value: { name: "Attic", position: 2 } },
    });
    expect(edit?.base ?? null).toBeNull();
    expect(seen.at).toContain(String(edit?.entity?.value["id"]));
  });

  it("are doubled with all that is in them, and the copy is opened", async () => {
    const changed = { house: "h", revision: 2, put: [], taken: [], undo: null, redo: null };
    const answers = {
      "/copies": {
        title: "Hall doubled.",
        made: "hall-2",
        at: "2026-01-01T00:00:00Z",
        again: false,
        changed,
      },
    };
    const seen = show(house(), sheet, { answers });
    press("Duplicate this room with all that is in it");
    await waitFor(() => expect(seen.at).toBe("/houses/h/rooms/hall-2/kit"));
    expect(seen.asked[0]).toMatchObject({ path: "/api/houses/h/copies", body: { what: "room", id: "hall" } });
  });

  it("are removed with their version, and another one is opened", async () => {
    const seen = show(house({ versions: { hall: 9 } }), sheet);
    press("Remove this room");
    await waitFor(() => expect(seen.at).toBe("/houses/h/rooms/loft/kit"));
    expect(seen.edits).toEqual([[{ do: "remove", kind: "room", id: "hall", base: 9 }]]);
  });

  it("say why one cannot be removed, and stay", async () => {
    const seen = show(house(), sheet, { refuse: "Hall still holds Receiver. Remove it first." });
    press("Remove this room");
    expect(await screen.findByText("Hall still holds Receiver. Remove it first.")).toBeDefined();
    expect(seen.at).toBe("/");
  });
});
