import type { Notes } from "../api/types";

/** A stage of the work. The digit is its key and its place in the whole passage. */
export interface StageInfo {
  id: "kit" | "codes" | "sequences" | "cues" | "surfaces" | "rehearse";
  digit: string;
  name: string;
}

/** The stages in working order. Handover keeps its digit free until it works. */
export const STAGES: readonly StageInfo[] = [
  { id: "kit", digit: "1", name: "Kit" },
  { id: "codes", digit: "2", name: "Codes" },
  { id: "sequences", digit: "3", name: "Sequences" },
  { id: "cues", digit: "4", name: "Cues" },
  { id: "surfaces", digit: "5", name: "Surfaces" },
  { id: "rehearse", digit: "6", name: "Rehearse" },
];

/** What is done of a stage, where that can be counted. */
export function shareOf(stage: StageInfo["id"], notes: Notes | undefined) {
  if (!notes || stage === "rehearse") return undefined;
  return notes[stage].total > 0 ? notes[stage] : undefined;
}
