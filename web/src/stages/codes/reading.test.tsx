import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import type { Candidate, Reading } from "../../api/types";
import { ReadingView } from "./ReadingView";
import { outline } from "./Waveform";

const candidate = (part: Partial<Candidate>): Candidate =>
  ({
    protocol: "nec-ext",
    fields: { address: 31_249, command: 49 },
    confidence: 0.964,
    stretch_us: 72.4,
    unit_error_percent: -0.02,
    worst_error_us: 23.4,
    frames_matched: 1,
    held_signs: 1,
    frames_total: 2,
    parts: [],
    remarks: [],
    ...part,
  }) as unknown as Candidate;

const reading = (candidates: Candidate[], removed: string[] = []): Reading =>
  ({
    best: candidates[0] ?? null,
    candidates,
    why: "Read as nec-ext.",
    frames: [],
    durations_us: [],
    cleaned: { durations_us: [], frames: [], removed },
  }) as unknown as Reading;

function text(view: Reading): string {
  return renderToStaticMarkup(<ReadingView reading={view} lead="2 presses together." />)
    .replace(/<[^>]*>/g, " ")
    .replace(/\s+/g, " ");
}

describe("a reading in words", () => {
  it("gives every figure its unit, and numbers in both notations", () => {
    const said = text(reading([candidate({})]));
    for (const part of [
      "31249 (0x7A11)",
      "49 (0x31)",
      "Confidence 96 %",
      "Mark stretch +72 µs",
      "Worst error 23 µs",
      "Frames 2 of 2",
      "2 presses together.",
    ])
      expect(said).toContain(part);
  });

  it.each([
    [-0.02, "Clock 0.0 %"],
    [0, "Clock 0.0 %"],
    [0.7, "Clock +0.7 %"],
    [-1.26, "Clock −1.3 %"],
  ])("a clock that is off by %f %% reads right", (unit_error_percent, expected) => {
    expect(text(reading([candidate({ unit_error_percent })]))).toContain(expected);
  });

  it("names the other candidates and what was taken out", () => {
    const other = candidate({ protocol: "pd16", confidence: 0.31 });
    const said = text(
      reading([candidate({ remarks: ["The extended form."] }), other], ["1 stray blip was taken out."]),
    );
    expect(said).toContain("Also possible: pd16, confidence 31 %.");
    expect(said).toContain("The extended form.");
    expect(said).toContain("1 stray blip was taken out.");
  });

  it("says why nothing was recognised, without any figure", () => {
    const view = { ...reading([]), why: "No protocol explains it." };
    expect(text(view)).toContain("No protocol explains it.");
    expect(text(view)).not.toContain("Confidence");
  });
});

describe("a waveform as an outline", () => {
  it("is up in a mark and down in a space", () => {
    const path = outline([10, 20, 30], (us) => us, 0, 40);
    expect(path).toBe("M 0 40 V 0 H 10.0 V 40 H 30.0 V 0 H 60.0 V 40");
  });

  it("of nothing is a line at rest", () => {
    expect(outline([], (us) => us, 5, 40)).toBe("M 0 45 V 45");
  });
});
