import type { HouseView, Matrix, Situation } from "../../api/types";

/** A situation as it stands in an address: "off", "unknown" or the id of an activity. */
export function situationKey(situation: Situation): string {
  return situation.is === "in" ? situation.activity : situation.is;
}

/** The situation of a word in an address. */
export function situationOf(key: string): Situation {
  return key === "off" || key === "unknown" ? { is: key } : { is: "in", activity: key };
}

/** What a situation is called. */
export function situationName(house: HouseView, key: string): string {
  if (key === "off") return "Off";
  if (key === "unknown") return "Anything";
  return house.activities.find((known) => known.id === key)?.name ?? "a removed activity";
}

/** What is remembered of a matrix between two looks. */
export type Looked = Record<string, string>;

/** The figures of every cell, so that the next look can tell what has changed. */
export function lookedAt(matrix: Matrix): Looked {
  return Object.fromEntries(
    matrix.cells.map((cell) => [
      `${situationKey(cell.from)} ${situationKey(cell.to)}`,
      `${cell.ready_ms} ${cell.sends} ${cell.guarantee} ${cell.waits_hold}`,
    ]),
  );
}

/** The cells that differ from what was seen at the last look; none where there was no look before. */
export function changedSince(last: Looked | undefined, matrix: Matrix): Set<string> {
  if (!last) return new Set();
  const now = lookedAt(matrix);
  return new Set(Object.keys(now).filter((key) => last[key] !== now[key]));
}
