import { describe, expect, it } from "vitest";
import type { RadioReading } from "../../api/types";
import { radioSentence, radioWords } from "./radio";

const ook = { code: "ook-24" as const, identity: 369601, key: 2 };
const tristate = { code: "ook-tristate-12" as const, trits: ["0", "1", "F"] as ("0" | "1" | "F")[] };

describe("a radio code in words", () => {
  it("is written as the log writes it", () => {
    expect(radioWords(ook)).toBe("ook-24 identity=369601 key=2");
    expect(radioWords(tristate)).toBe("ook-tristate-12 01F");
  });

  it("says how many frames agree, and the other reading", () => {
    const reading: RadioReading = { candidates: [tristate, ook], frames: 4, strays: 1, unit_us: 349.6 };
    expect(radioSentence(reading)).toBe(
      "Read as a fixed radio code, ook-tristate-12 01F: 4 frames say the same, 1 did not; its short unit is 350 µs." +
        " It can also be read as ook-24 identity=369601 key=2.",
    );
  });

  it("counts a single frame as one", () => {
    expect(radioSentence({ candidates: [ook], frames: 1, strays: 0, unit_us: 350 })).toContain(
      "1 frame says the same;",
    );
  });
});
