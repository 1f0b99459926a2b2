import type { Notes } from "../api/types";

/** A stage of the work. The digit is its key and its place in the whole passage. */
export interface StageInfo {
  id: "kit" | "codes" | "sequences" | "cues" | "surfaces" | "rehearse" | "handover";
  digit: string;
  name: string;
}

/** The stages in working order. */
export const STAGES: readonly StageInfo[] = [
  { id: "kit", digit: "1", name: "Kit" },
  { id: "codes", digit: "2", name: "Codes" },
  { id: "sequences", digit: "3", name: "Sequences" },
  { id: "cues", digit: "4", name: "Cues" },
  { id: "surfaces", digit: "5", name: "Surfaces" },
  { id: "rehearse", digit: "6", name: "Rehearse" },
  { id: "handover", digit: "7", name: "Handover" },
];

/** The views of each stage: where they stand in its address, and what they are called. */
export const PARTS = {
  kit: [
    ["devices", "Devices"],
    ["wiring", "Wiring"],
    ["plan", "Plan"],
    ["addresses", "Addresses"],
    ["records", "Records"],
    ["models", "Models"],
  ],
  codes: [
    ["add", "Add a function …"],
    ["rename", "Rename functions …"],
    ["import", "Import or copy codes …"],
    ["export", "Export codes …"],
    ["presets", "Try code sets on a device …"],
    ["hidden", "Search for hidden keys …"],
    ["protocols", "Describe a protocol …"],
  ],
  sequences: [
    ["plan", "Plan"],
    ["proof", "Proof"],
    ["matrix", "Switch matrix"],
    ["rules", "Order and couplings"],
    ["favourites", "Favourites"],
    ["house", "Whole house"],
  ],
  cues: [
    ["sheet", "Cue sheet"],
    ["evening", "An evening"],
    ["starts", "Ways of starting"],
    ["zones", "Zones and looks"],
  ],
  surfaces: [
    ["layout", "Layout"],
    ["cover", "Against the old remotes"],
    ["labels", "Labels"],
    ["links", "On phones"],
    ["names", "Spoken names"],
  ],
  rehearse: [
    ["room", "The room"],
    ["step", "In step"],
    ["stories", "Stories"],
    ["trials", "Trials"],
    ["calls", "Calls"],
  ],
  handover: [
    ["stopwatch", "Stopwatch"],
    ["tests", "Tests"],
    ["papers", "Papers"],
    ["logbook", "Logbook"],
    ["service", "Service call"],
  ],
} as const;

/** Under which name an address says which part of a stage is shown. */
export const PART_PARAM: Record<StageInfo["id"], string> = {
  kit: "view",
  codes: "tool",
  sequences: "view",
  cues: "show",
  surfaces: "show",
  rehearse: "show",
  handover: "show",
};

/** What is done of a stage, where that can be counted. */
export function shareOf(stage: StageInfo["id"], notes: Notes | undefined) {
  if (!notes) return undefined;
  return notes[stage].total > 0 ? notes[stage] : undefined;
}
