import type { Finding } from "../api/types";
import { STAGES, type StageInfo } from "./stages";

/** Notes of one kind. */
export interface Group {
  findings: Finding[];
  /** The sentences that all of them end in. */
  shared: string;
  /** What is left of each. */
  own: string[];
}

/** The notes of a stage that is not on the table. */
export interface StageNotes {
  stage: StageInfo["id"];
  findings: Finding[];
  /** What kinds there are, each once. */
  titles: string[];
}

/** The sentences of a text. A full stop within a figure or an address ends none. */
function sentences(text: string): string[] {
  return text.split(/(?<=[.:!?]”?)\s+(?=[A-Z“])/);
}

/** What all texts end in, sentence by sentence; at least one sentence of each is left to it. */
function sharedEnd(texts: string[]): { shared: string; own: string[] } {
  const split = texts.map(sentences);
  const [first = []] = split;
  let same = 0;
  while (split.every((own) => own.length > same + 1 && own.at(-1 - same) === first.at(-1 - same))) same += 1;
  return {
    shared: first.slice(first.length - same).join(" "),
    own: split.map((own) => own.slice(0, own.length - same).join(" ")),
  };
}

/** Notes of one kind as one, in the order of the first of each. */
export function groups(findings: Finding[]): Group[] {
  const kinds = new Map<string, Finding[]>();
  for (const finding of findings) {
    const kind = `${finding.weight} ${finding.title}`;
    kinds.set(kind, [...(kinds.get(kind) ?? []), finding]);
  }
  return [...kinds.values()].map((own) => ({
    findings: own,
    ...sharedEnd(own.map((finding) => finding.text)),
  }));
}

/** The notes of the stage on the table, and those of the others in working order. */
export function byStage(
  findings: Finding[],
  stage: StageInfo["id"],
): { here: Finding[]; others: StageNotes[] } {
  const others = STAGES.filter((known) => known.id !== stage).flatMap((known): StageNotes[] => {
    const own = findings.filter((finding) => finding.place.stage === known.id);
    const titles = [...new Set(own.map((finding) => finding.title))];
    return own.length > 0 ? [{ stage: known.id, findings: own, titles }] : [];
  });
  return { here: findings.filter((finding) => finding.place.stage === stage), others };
}
