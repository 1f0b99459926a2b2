import { scaleLinear } from "d3-scale";
import { useMemo } from "react";
import type { Reading } from "../../api/types";
import { outline, pick, useWidth } from "./Waveform";

const HEIGHT = 46;

/** Two captures over each other, each from the start of its frame: where they part is seen at a glance. */
export function Overlay({ one, other }: { one: Reading; other: Reading }) {
  const [ref, width] = useWidth();
  const frames = useMemo(() => [pick(one), pick(other)] as const, [one, other]);
  const longest = Math.max(1, frames[0].length, frames[1].length);
  const x = scaleLinear([0, longest], [1, Math.max(2, width - 1)]);
  return (
    <div ref={ref} className="w-full">
      <svg
        width={width}
        height={2 * HEIGHT + 30}
        role="img"
        aria-label="Both waveforms from the start of their frames, one above the other"
      >
        <rect x={1} y={4} width={12} height={8} className="fill-ink/12 stroke-ink" />
        <text x={18} y={12} className="fill-ink text-[12px]">
          this code
        </text>
        <line x1={90} x2={102} y1={8} y2={8} className="stroke-accent" strokeWidth={2.4} />
        <text x={107} y={12} className="fill-accent text-[12px]">
          the other one
        </text>
        <path
          d={outline(frames[0].durations, x, 22, HEIGHT)}
          className="fill-ink/8 stroke-ink"
          strokeWidth={1.1}
        />
        <path
          d={outline(frames[1].durations, x, 30, HEIGHT + 18)}
          className="fill-none stroke-accent"
          strokeWidth={1.6}
        />
        <text x={width - 2} y={2 * HEIGHT + 26} textAnchor="end" className="fill-muted text-[12px]">
          {(longest / 1000).toFixed(1)} ms
        </text>
      </svg>
    </div>
  );
}
