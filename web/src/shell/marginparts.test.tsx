// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Finding } from "../api/types";
import { PAGES } from "../help/pages";
import { TERMS } from "../help/terms";
import { house, show } from "../testing/house";
import { Margin } from "./Margin";
import { STAGES } from "./stages";

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const none = () => undefined;
const note = (title: string, text: string, stage: string): Finding =>
  ({
    kind: { kind: title, text },
    weight: "caution",
    title,
    text,
    place: { stage, device: "d" },
    accepted: null,
  }) as unknown as Finding;

describe("the margin", () => {
  it("folds what belongs to another stage into a line, which opens", () => {
    const found = [
      note("Assumed", "It starts in 5 s.", "kit"),
      note("Same code", "Two keys share one.", "codes"),
    ];
    show(house(), <Margin shown onToggle={none} findings={found} stage="kit" />);
    expect(screen.getByText("It starts in 5 s.")).toBeTruthy();
    const other = screen.getByText("Two keys share one.").closest("details");
    expect(other?.open).toBe(false);
    expect(other?.querySelector("summary")?.textContent).toBe("CodesSame code1");
    const hazard = { ...note("Heat", "It is hot.", "cues"), weight: "hazard" as const };
    cleanup();
    show(house(), <Margin shown onToggle={none} findings={[...found, hazard]} stage="kit" />);
    const hot = screen.getByText("It is hot.").closest("details")?.querySelector("summary");
    expect(hot?.textContent).toBe("Cues, a hazard among themHeat1");
  });

  it("says when there is nothing to say, here or in the whole room", () => {
    show(house(), <Margin shown onToggle={none} findings={[]} stage="cues" />);
    expect(screen.getByText("Nothing to mend in this room.")).toBeTruthy();
    cleanup();
    const found = [note("Same code", "Two keys share one.", "codes")];
    show(house(), <Margin shown onToggle={none} findings={found} stage="cues" />);
    expect(screen.getByText("Nothing to mend in Cues.")).toBeTruthy();
    cleanup();
    show(house(), <Margin shown onToggle={none} findings={undefined} stage="cues" />);
    expect(screen.getByText("Looking at the room …")).toBeTruthy();
  });

  it("leads to each place of several notes by its sentence", () => {
    const found = ["A", "B"].map((name) =>
      note("Assumed", `${name} starts late. Nobody measured it.`, "kit"),
    );
    const seen = show(house(), <Margin shown onToggle={none} findings={found} stage="codes" />);
    fireEvent.click(screen.getByRole("button", { name: "Show in Kit: B starts late.", hidden: true }));
    expect(seen.at).toBe("kit");
    expect(screen.getAllByText(/Nobody measured it/)).toHaveLength(1);
  });

  it("is as wide as its user wants, by arrow keys too, and stays so", () => {
    const found: Finding[] = [];
    show(house(), <Margin shown onToggle={none} findings={found} stage="kit" />);
    const handle = screen.getByRole("separator", { name: "Width of the margin" });
    fireEvent.keyDown(handle, { key: "ArrowLeft" });
    expect(handle.getAttribute("aria-valuenow")).toBe("316");
    for (let step = 0; step < 20; step++) fireEvent.keyDown(handle, { key: "ArrowRight" });
    expect(handle.getAttribute("aria-valuenow")).toBe("240");
    cleanup();
    show(house(), <Margin shown onToggle={none} findings={found} stage="kit" />);
    expect(screen.getByRole("separator").getAttribute("aria-valuenow")).toBe("240");
    localStorage.setItem("kestrel-margin-width", "wide");
    cleanup();
    show(house(), <Margin shown onToggle={none} findings={found} stage="kit" />);
    expect(screen.getByRole("separator").getAttribute("aria-valuenow")).toBe("292");
  });

  it("opens the page of the stage, and explains a term where it stands", async () => {
    show(house(), <Margin shown onToggle={none} findings={[]} stage="kit" />);
    fireEvent.click(screen.getByRole("button", { name: "What is this stage for" }));
    expect(screen.getByText("Why a toggle is trouble")).toBeTruthy();
    fireEvent.click(screen.getAllByRole("button", { name: "reservation" })[0] as HTMLElement);
    expect((await screen.findByRole("dialog")).textContent).toContain(
      "always gives this device the same address",
    );
  });
});

describe("the pages of help", () => {
  it.each(STAGES.map((stage) => stage.id))("explain every term that they underline: %s", (stage) => {
    const text = JSON.stringify(PAGES[stage]);
    const terms = [...text.matchAll(/\[([^\]"[]+)\]/g)].map(
      (found) => (found[1] ?? "").split("|").at(-1) ?? "",
    );
    expect(terms.length).toBeGreaterThan(0);
    expect(terms.filter((term) => !TERMS[term])).toEqual([]);
  });
});
