import { useId } from "react";
import type { Stages } from "../api/types";
import { COURSE, courseWords, part } from "./words";

const STEP = 52;

/** How far the work is, stage by stage: a diamond fills as its stage gets done. */
export function CourseLine({ stages, named = false }: { stages: Stages; named?: boolean }) {
  const id = useId();
  const width = STEP * (COURSE.length - 1) + 20;
  return (
    <svg
      role="img"
      aria-label={courseWords(stages)}
      width={named ? width + 36 : width}
      height={named ? 36 : 20}
      className="block max-w-full"
      viewBox={`0 0 ${named ? width + 36 : width} ${named ? 36 : 20}`}
    >
      <title>{courseWords(stages)}</title>
      <line x1={10} x2={width - 10} y1={10} y2={10} className="stroke-edge" strokeDasharray="3 3" />
      {COURSE.map(([stage, name], at) => {
        const x = 10 + at * STEP;
        const share = stages[stage];
        const done = share && part(share);
        const high = 14 * (done ?? 0);
        return (
          <g key={stage}>
            <path
              d={`M${x} 3l7 7-7 7-7-7z`}
              className="fill-paper stroke-edge"
              strokeDasharray={done === undefined ? "2 2" : undefined}
            />
            <clipPath id={`${id}-${stage}`}>
              <rect x={x - 7} y={17 - high} width={14} height={high} />
            </clipPath>
            <path d={`M${x} 3l7 7-7 7-7-7z`} className="fill-ink" clipPath={`url(#${id}-${stage})`} />
            {named && (
              <text
                x={at === 0 ? x - 8 : x}
                y={32}
                textAnchor={at === 0 ? "start" : "middle"}
                className="fill-muted text-[11px]"
              >
                {name}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
