// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Finding } from "../api/types";
import { house, show } from "../testing/house";
import { Notes } from "./Note";
import type { Group } from "./notes";

beforeEach(() => localStorage.clear());

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const finding = (part: object = {}): Finding =>
  ({
    kind: { kind: "heat", device: "amp" },
    weight: "caution",
    title: "Heat",
    text: "Amp makes heat in a closed cupboard.",
    place: { stage: "kit", device: "amp" },
    accepted: null,
    ...part,
  }) as unknown as Finding;

function notes(findings: Finding[], accepted: object[] = [], shared = "It makes heat.") {
  const group = { findings, shared, own: findings.map((one) => one.text) } as unknown as Group;
  return show(
    house({
      rooms: [{ id: "hall", name: "Hall", position: 0, accepted }] as never,
      versions: { "note-1": 4 },
    }),
    <ul>
      <Notes group={group} />
    </ul>,
  );
}

describe("a note in the margin", () => {
  it("says its weight in words, what it is, and leads to where it is mended", async () => {
    const seen = notes([finding()]);
    expect(screen.getByRole("listitem").textContent).toContain(
      "Caution: Heat Amp makes heat in a closed cupboard.",
    );
    await userEvent.click(screen.getByRole("button", { name: "Show in Kit" }));
    expect(seen.at).toBe("kit");
  });

  it("marks a hazard to people for more than the eye", () => {
    notes([finding({ weight: "hazard", title: "Keep clear" })]);
    expect(screen.getByRole("listitem").textContent).toContain("Hazard: Keep clear");
    expect(document.querySelector("svg")).toBeTruthy();
  });

  it("of several places says what they share once, and leads to each", async () => {
    const other = finding({
      kind: { kind: "heat", device: "box" },
      text: "Box makes heat.",
      place: { stage: "codes", device: "box" },
    });
    const seen = notes([finding(), other]);
    const [whole] = screen.getAllByRole("listitem");
    expect(whole?.textContent).toContain("×2");
    expect(whole?.textContent).toContain("It makes heat.");
    await userEvent.click(screen.getByRole("button", { name: "Show in Codes: Box makes heat." }));
    expect(seen.at).toBe("codes");
  });

  it("without a place leads nowhere", () => {
    notes([finding({ place: { stage: "kit" } })]);
    expect(screen.queryByRole("button", { name: /^Show in/ })).toBeNull();
  });
});

describe("a note that is no trouble here", () => {
  it("is accepted with a reason only, and comes back when its facts change", async () => {
    const seen = notes([finding()]);
    await userEvent.click(screen.getByRole("button", { name: "Accept" }));
    const accept = screen.getByRole("button", { name: "Accept" });
    expect(accept).toHaveProperty("disabled", true);
    await userEvent.type(screen.getByLabelText("Why is it no trouble here?"), "A fan blows there.");
    await userEvent.click(accept);
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity).toMatchObject({
      entity: "accepted",
      value: { room: "hall", found: { kind: "heat", device: "amp" }, reason: "A fan blows there." },
    });
    expect(seen.said[0]).toContain("It comes back when its facts change.");
  });

  it("keeps the reason that was typed while something else is looked at", async () => {
    notes([finding()]);
    await userEvent.click(screen.getByRole("button", { name: "Accept" }));
    await userEvent.type(screen.getByLabelText("Why is it no trouble here?"), "A fan");
    cleanup();
    notes([finding()]);
    await userEvent.click(screen.getByRole("button", { name: "Accept" }));
    expect(screen.getByLabelText("Why is it no trouble here?")).toHaveProperty("value", "A fan");
  });

  it("is taken back", async () => {
    const known = { id: "note-1", found: { kind: "heat", device: "amp" }, reason: "A fan blows there." };
    const seen = notes([finding({ accepted: "A fan blows there." })], [known]);
    const own = screen.getByRole("listitem");
    expect(own.textContent).toContain("Accepted: A fan blows there.");
    await userEvent.click(within(own).getByRole("button", { name: "Take it back" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]).toMatchObject({ do: "remove", kind: "accepted", id: "note-1", base: 4 });
    expect(seen.said[0]).toBe("The note is back in the margin.");
  });
});
