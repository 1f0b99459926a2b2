import { describe, expect, it } from "vitest";
import type { RadioReading } from "../../api/types";
import { radioSentence, radioWords } from "./radio";

const ook = { code: "ook-24" as const, identity: 369601, key: 2 };
const tristate = { code: "ook-tristate-12" as const, trits: ["0", "1", "F"] as ("0" | "1" | "F")[] };

const read: RadioReading = {
  candidates: [ook],
  frames: 4,
  strays: 0,
  unit_us: 350,
  stretch_us: 2,
  confidence: 0.97,
  remarks: [],
};

describe("a radio code in words", () => {
  it("is written as the log writes it", () => {
    expect(radioWords(ook)).toBe("ook-24 identity=369601 key=2");
    expect(radioWords(tristate)).toBe("ook-tristate-12 01F");
  });

  it("says how many frames agree, and the other reading", () => {
    const reading: RadioReading = { ...read, candidates: [tristate, ook], strays: 1, unit_us: 349.6 };
    expect(radioSentence(reading)).toBe(
      "Read as a fixed radio code, ook-tristate-12 01F, 97 % sure: 4 frames say the same, 1 did not; its short unit is 350 µs." +
        " It can also be read as ook-24 identity=369601 key=2.",
    );
  });

  it("counts a single frame as one", () => {
    const remarks = ["One frame only: nothing confirms it."];
    const said = radioSentence({ ...read, frames: 1, confidence: 0.5, remarks, stretch_us: -40 });
    expect(said).toContain("50 % sure: 1 frame says the same;");
    expect(said).toContain(
      "and the receiver makes pulses 40 µs shorter. One frame only: nothing confirms it.",
    );
  });
});
