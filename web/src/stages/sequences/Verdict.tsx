import type { Cell } from "../../api/types";

/** What a verdict looks like: solid, filled in part, hatched or open. Its words always stand beside it. */
export type Mark = "certain" | "waits" | "hands" | "risk";

/** The mark of a cell. */
export function markOf(cell: Pick<Cell, "guarantee" | "waits_hold">): Mark {
  if (cell.guarantee === "at-risk") return "risk";
  if (cell.guarantee === "if-nobody-else") return "hands";
  return cell.waits_hold ? "certain" : "waits";
}

/** The short word of a mark. */
export const MARK_WORD: Record<Mark, string> = {
  certain: "Certain",
  waits: "if the waits hold",
  hands: "if nobody else",
  risk: "At risk",
};

const COLOUR: Record<Mark, string> = {
  certain: "text-good",
  waits: "text-good",
  hands: "text-second",
  risk: "text-stop",
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
        strokeDasharray={mark === "risk" ? "3 2" : undefined}
      />
      {mark === "waits" && <rect x="0" y="0" width={width * 0.6} height="9" fill="currentColor" />}
    </svg>
  );
}

/** The bar with the words of a verdict. */
export function VerdictLine({ cell }: { cell: Pick<Cell, "guarantee" | "waits_hold" | "verdict"> }) {
  const mark = markOf(cell);
  return (
    <span className="inline-flex items-center gap-2">
      <VerdictBar mark={mark} />
      <strong className={COLOUR[mark]}>{cell.verdict}</strong>
    </span>
  );
}
