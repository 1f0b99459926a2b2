import type { Cell } from "../../api/types";

/** What a verdict looks like: solid, filled in part, hatched or open. Its words always stand beside it. */
export type Mark = "certain" | "waits" | "hands" | "risk" | "unproved" | "unsent";

type Judged = Pick<Cell, "guarantee" | "waits_hold"> & Partial<Pick<Cell, "cannot_be_sent">>;

/** The mark of a cell. */
export function markOf(cell: Judged): Mark {
  if (cell.cannot_be_sent?.length) return "unsent";
  if (cell.guarantee === "at-risk") return "risk";
  if (cell.guarantee === "not-proved") return "unproved";
  if (cell.guarantee === "if-nobody-else") return "hands";
  return cell.waits_hold ? "certain" : "waits";
}

/** The short word of a mark. */
export const MARK_WORD: Record<Mark, string> = {
  certain: "Certain",
  waits: "if the waits hold",
  hands: "if nobody else",
  risk: "At risk",
  unproved: "Not proved",
  unsent: "Cannot be sent",
};

const COLOUR: Record<Mark, string> = {
  certain: "text-good",
  waits: "text-good",
  hands: "text-second",
  risk: "text-stop",
  unproved: "text-muted",
  unsent: "text-stop",
};

/** The bar of a verdict. */
export function VerdictBar({ mark, width = 46 }: { mark: Mark; width?: number }) {
  return (
    <svg aria-hidden width={width} height={9} className={`shrink-0 ${COLOUR[mark]}`}>
      <defs>
        <pattern
          id="verdict-hatch"
          width="5"
          height="5"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width="2.4" height="5" className="fill-second" />
        </pattern>
      </defs>
      <rect
        x="0.75"
        y="0.75"
        width={width - 1.5}
        height="7.5"
        fill={mark === "certain" ? "currentColor" : mark === "hands" ? "url(#verdict-hatch)" : "none"}
        stroke="currentColor"
        strokeWidth="1.5"
        strokeDasharray={mark === "risk" ? "3 2" : mark === "unproved" ? "1 3" : undefined}
      />
      {mark === "unsent" && (
        <line x1="2" x2={width - 2} y1="7.5" y2="1.5" stroke="currentColor" strokeWidth="1.5" />
      )}
      {mark === "waits" && <rect x="0" y="0" width={width * 0.6} height="9" fill="currentColor" />}
    </svg>
  );
}

/** The bar with the words of a verdict. */
export function VerdictLine({ cell }: { cell: Judged & Pick<Cell, "verdict"> }) {
  const mark = markOf(cell);
  return (
    <span className="inline-flex items-center gap-2">
      <VerdictBar mark={mark} />
      <strong className={COLOUR[mark]}>{cell.verdict}</strong>
    </span>
  );
}
