import type { Measurement, TimingKnown } from "../../api/types";
import { seconds } from "../../ui/time";

const WIDE = 460;
const HIGH = 120;

/** Round steps of an axis: about six of them between two times. */
export function stepsOf(lo: number, hi: number): number[] {
  const span = Math.max(hi - lo, 100);
  const rough = span / 6;
  const size = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((by) => by * size).find((by) => by >= rough) ?? size * 10;
  const first = Math.floor(lo / step) * step;
  const all: number[] = [];
  for (let at = first; all.length < 14; at += step) {
    all.push(at);
    if (at >= hi && all.length > 1) break;
  }
  return all;
}

/** What the strip says, for whoever does not see it. */
export function stripWords(readings: readonly Measurement[]): string {
  if (readings.length === 0) return "No reading yet.";
  return readings
    .map((own) => {
      const how = own.timed_out ? "nothing seen until then" : own.struck ? `struck: ${own.struck}` : "";
      const where = own.seen === "rehearsed" ? "rehearsed" : "";
      const more = [how, own.hot ? "hot" : "", where].filter(Boolean).join(", ");
      return seconds(own.ms) + (more ? ` (${more})` : "");
    })
    .join(", ");
}

/**
 * The readings of a time as dots over seconds: the shaded box is what they say, the line is what a plan waits for. What is
 * struck is hollow, what was rehearsed is a ring of dashes, and nothing seen in time points on.
 */
export function Strip({ readings, known }: { readings: readonly Measurement[]; known: TimingKnown }) {
  const times = readings.map((own) => own.ms);
  const span = known.in_use;
  const ends = [...times, ...(span ? [span.lo_ms, span.hi_ms] : [])];
  if (ends.length === 0) return null;
  const steps = stepsOf(Math.min(...ends), Math.max(...ends));
  const [lo, hi] = [steps[0] ?? 0, steps[steps.length - 1] ?? 1];
  const x = (ms: number) => 20 + ((ms - lo) / Math.max(hi - lo, 1)) * (WIDE - 40);
  const range = known.proposal;
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      className="w-full max-w-[620px]"
      role="img"
      aria-label={`Readings: ${stripWords(readings)}`}
    >
      {steps.map((at) => (
        <g key={at}>
          <line x1={x(at)} x2={x(at)} y1={14} y2={92} className="stroke-rule" />
          <text x={x(at)} y={110} textAnchor="middle" className="fill-muted text-[12px]">
            {seconds(at)}
          </text>
        </g>
      ))}
      {range && (
        <rect
          x={x(range.lo_ms)}
          y={36}
          width={Math.max(x(range.hi_ms) - x(range.lo_ms), 2)}
          height={36}
          className="fill-soft stroke-edge"
        />
      )}
      {span && (
        <>
          <line
            x1={x(span.hi_ms)}
            x2={x(span.hi_ms)}
            y1={24}
            y2={84}
            strokeWidth={2}
            className="stroke-accent"
          />
          <text
            x={x(span.hi_ms)}
            y={16}
            textAnchor={x(span.hi_ms) > WIDE - 120 ? "end" : "middle"}
            className="fill-accent text-[12px]"
          >
            a plan waits {seconds(span.hi_ms)}
          </text>
          <line
            x1={x(span.lo_ms)}
            x2={x(span.lo_ms)}
            y1={30}
            y2={78}
            strokeDasharray="3 3"
            className="stroke-edge"
          />
        </>
      )}
      {readings.map((own, at) => {
        const y = 46 + (at % 3) * 9;
        if (own.timed_out) {
          return (
            <path
              key={own.id}
              d={`M ${x(own.ms) - 5} ${y - 5} L ${x(own.ms) + 5} ${y} L ${x(own.ms) - 5} ${y + 5} Z`}
              className="fill-stop"
            />
          );
        }
        const plain = own.seen === "house" && !own.struck;
        return (
          <circle
            key={own.id}
            cx={x(own.ms)}
            cy={y}
            r={5}
            strokeWidth={1.5}
            strokeDasharray={own.seen === "rehearsed" ? "2 2" : undefined}
            className={`stroke-second ${plain ? "fill-second" : "fill-paper"}`}
          />
        );
      })}
    </svg>
  );
}
