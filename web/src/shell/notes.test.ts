import { describe, expect, it } from "vitest";
import type { Finding } from "../api/types";
import { byStage, groups } from "./notes";

const note = (title: string, text: string, stage = "kit", weight = "caution"): Finding =>
  ({
    kind: { kind: title, text },
    weight,
    title,
    text,
    place: { stage },
    accepted: null,
  }) as unknown as Finding;

describe("notes of one kind", () => {
  it("are one note: what they share is said once, and each keeps its own sentence", () => {
    const [group, ...more] = groups([
      note("Assumed", "Blind goes down in 18–30 s. Nobody measured it; a plan waits for the longer time."),
      note("Assumed", "Console cools down in 5–10 s. Nobody measured it; a plan waits for the longer time."),
    ]);
    expect(more).toEqual([]);
    expect(group?.shared).toBe("Nobody measured it; a plan waits for the longer time.");
    expect(group?.own).toEqual(["Blind goes down in 18–30 s.", "Console cools down in 5–10 s."]);
  });

  it("leave each at least one sentence, and a figure or an address whole", () => {
    const [same] = groups([note("Heat", "It is hot."), note("Heat", "It is hot.")]);
    expect(same).toMatchObject({ shared: "", own: ["It is hot.", "It is hot."] });
    const [address] = groups([
      note("Twice", "10.0.4.30 is had by two. Change one."),
      note("Twice", "10.0.4.31 is had by 3.5 of them. Change one."),
    ]);
    expect(address?.own).toEqual(["10.0.4.30 is had by two.", "10.0.4.31 is had by 3.5 of them."]);
  });

  it("stay apart by weight, and in the order of the first of each", () => {
    const found = groups([
      note("Keep clear", "A.", "kit", "hazard"),
      note("Assumed", "B."),
      note("Keep clear", "C.", "kit", "hazard"),
      note("Keep clear", "D.", "kit", "remark"),
    ]);
    expect(found.map((group) => group.findings.map((one) => one.text))).toEqual([
      ["A.", "C."],
      ["B."],
      ["D."],
    ]);
  });
});

describe("the stage on the table", () => {
  it("comes first, and each other one in a line with what kinds there are", () => {
    const { here, others } = byStage(
      [note("A", "1."), note("B", "2.", "cues"), note("B", "3.", "cues"), note("C", "4.", "codes")],
      "kit",
    );
    expect(here.map((one) => one.text)).toEqual(["1."]);
    expect(others.map(({ stage, titles, findings }) => [stage, titles, findings.length])).toEqual([
      ["codes", ["C"], 1],
      ["cues", ["B"], 2],
    ]);
  });
});
