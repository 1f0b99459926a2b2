import { shortDay } from "../ui/when";
import type { Share, ShelfLine, Stages } from "../api/types";

/** The stages of the course line, in working order. */
export const COURSE: readonly (readonly [keyof Stages, string])[] = [
  ["kit", "Kit"],
  ["codes", "Codes"],
  ["sequences", "Sequences"],
  ["cues", "Cues"],
  ["surfaces", "Surfaces"],
  ["rehearse", "Rehearse"],
  ["handover", "Handover"],
];

const NONE: Share = { done: 0, total: 0 };

/** How much of a stage is done, 0 to 1; none where there is nothing to do in it. */
export function part({ done, total }: Share): number | undefined {
  return total > 0 ? done / total : undefined;
}

/** A course line in words, for those who do not see it. */
export function courseWords(stages: Stages): string {
  return COURSE.map(([stage, name]) => {
    const { done, total } = stages[stage] ?? NONE;
    return total === 0 ? `${name}: nothing yet` : `${name}: ${done} of ${total}`;
  }).join(", ");
}

const MINUTE = 60_000;
const DAY = 24 * 60 * MINUTE;

/** How long ago something was, as one says it. */
export function ago(at: string, now: Date): string {
  const then = new Date(at);
  const ms = now.getTime() - then.getTime();
  if (ms < MINUTE) return "just now";
  if (ms < 60 * MINUTE) return `${Math.floor(ms / MINUTE)} min ago`;
  if (ms < DAY) return `${Math.floor(ms / (60 * MINUTE))} h ago`;
  if (ms < 2 * DAY) return "yesterday";
  return onDay(at, now);
}

/** A day as one says it; the year where it is another one. */
export function onDay(at: string, now: Date): string {
  const then = new Date(at);
  const year = then.getFullYear() === now.getFullYear() ? undefined : ("numeric" as const);
  return shortDay(then, Boolean(year));
}

/** “Four houses”, as the head of the shelf says it. */
export function houseCount(many: number): string {
  const words = [
    "No house",
    "One house",
    "Two houses",
    "Three houses",
    "Four houses",
    "Five houses",
    "Six houses",
  ];
  return words[many] ?? `${many} houses`;
}

/** What a house needs, in a line, and more of it in a second one. */
export interface Need {
  text: string;
  more?: string;
  tone: "stop" | "caution" | "next" | "good";
}

/** The worst that there is to mend; the next step of a young room where nothing stops the work. */
export function needs({ summary }: ShelfLine): Need | undefined {
  if (!summary) return undefined;
  if (summary.rooms.length === 0) return { text: "next: a room", tone: "next" };
  const { worst } = summary;
  const young = summary.rooms.find((room) => room.next);
  if (young?.next && worst?.weight !== "stops")
    return { text: `next in ${young.name}`, more: young.next.text, tone: "next" };
  if (!worst) return { text: "nothing to mend", tone: "good" };
  const room = summary.rooms.find((known) => known.id === summary.worst_room)?.name;
  const others = worst.count > 1 ? `, and ${worst.count - 1} more that matter as much` : "";
  return {
    text: `${worst.title}${room ? ` in ${room}` : ""}${others}`,
    more: worst.text,
    tone: worst.weight === "stops" ? "stop" : "caution",
  };
}
