import { scaleLinear } from "d3-scale";
import { useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Candidate, Reading } from "../../api/types";
import { protocolName } from "./protocols";

const OVERVIEW = { top: 2, height: 16 };
const WAVE = { top: 40, height: 44 };
const BITS = WAVE.top + WAVE.height + 15;
const FIELDS = BITS + 8;
const ERRORS = { top: FIELDS + 34, height: 26 };

/** The width of an element, as it changes. */
export function useWidth() {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    setWidth(element.clientWidth);
    return () => observer.disconnect();
  }, []);
  return [ref, width] as const;
}

/** Marks as an outline: up at a mark, down at a space. */
export function outline(durations: number[], x: (us: number) => number, top: number, height: number): string {
  let at = 0;
  let path = `M ${x(0)} ${top + height}`;
  durations.forEach((us, index) => {
    const level = index % 2 === 0 ? top : top + height;
    path += ` V ${level} H ${x(at + us).toFixed(1)}`;
    at += us;
  });
  return `${path} V ${top + height}`;
}

/** A run of bits that belong to one field. */
interface FieldSpan {
  label: string;
  from: number;
  to: number;
  value: number | undefined;
}

/** Neighbouring bits of one field, as bands under the waveform. */
function fieldsOf(best: Candidate): FieldSpan[] {
  const spans: FieldSpan[] = [];
  for (const part of best.parts) {
    const last = spans.at(-1);
    if (last && last.label === part.label) last.to = part.to_us;
    else
      spans.push({
        label: part.label,
        from: part.from_us,
        to: part.to_us,
        value: part.bit === null || part.bit === undefined ? undefined : best.fields[part.label],
      });
  }
  return spans;
}

/** The capture above, one frame of it below with its bits, its fields and the error of every edge. */
export function Waveform({
  reading,
  known = false,
  drawn: asDrawn = false,
}: {
  reading: Reading;
  known?: boolean;
  /** Is it a frame as it would be sent, and not one that was heard? Nothing of it is off. */
  drawn?: boolean;
}) {
  const [ref, width] = useWidth();
  const best = reading.best ?? undefined;
  const durations = reading.cleaned.durations_us;
  const frame = useMemo(() => pick(reading), [reading]);
  const total = durations.reduce((sum, us) => sum + us, 0);
  const height = best
    ? asDrawn
      ? ERRORS.top - 8
      : ERRORS.top + ERRORS.height + 6
    : WAVE.top + WAVE.height + 22;

  const drawn = useMemo(() => {
    if (width < 40) return undefined;
    const whole = scaleLinear([0, Math.max(total, 1)], [1, width - 1]);
    const near = scaleLinear([0, Math.max(frame.length, 1)], [1, width - 1]);
    return { whole, near, over: outline(durations, whole, OVERVIEW.top, OVERVIEW.height) };
  }, [width, total, frame, durations]);

  return (
    <div ref={ref} className="w-full">
      {drawn && (
        <svg
          width={width}
          height={height}
          role="img"
          aria-label={
            best
              ? `Waveform of ${durations.length} durations, read as ${protocolName(best.protocol)} with ${best.parts.filter((p) => p.bit !== null && p.bit !== undefined).length} bits`
              : `Waveform of ${durations.length} durations${known ? "" : " that were not recognised"}`
          }
        >
          <path d={drawn.over} className="fill-none stroke-muted" strokeWidth={1} />
          {reading.frames.length > 1 && (
            <rect
              x={drawn.whole(frame.start)}
              y={0}
              width={Math.max(3, drawn.whole(frame.start + frame.length) - drawn.whole(frame.start))}
              height={OVERVIEW.height + 4}
              className="fill-accent/10 stroke-accent"
            />
          )}
          <text x={1} y={33} className="fill-muted text-[12px]">
            {asDrawn
              ? `${(total / 1000).toFixed(1)} ms, without the silence behind it`
              : caption(reading, total)}
          </text>
          <path
            d={outline(frame.durations, drawn.near, WAVE.top, WAVE.height)}
            className="fill-ink/8 stroke-ink"
            strokeWidth={1.3}
          />
          {best ? (
            <>
              <Bits best={best} near={drawn.near} />
              {!asDrawn && <Errors best={best} near={drawn.near} durations={frame.durations} width={width} />}
            </>
          ) : (
            <Ruler near={drawn.near} length={frame.length} />
          )}
        </svg>
      )}
    </div>
  );
}

/** The frame that is drawn: the one that was read, or the longest. */
export function pick(reading: Reading): { start: number; length: number; durations: number[] } {
  const longest = [...reading.frames].sort((a, b) => b.durations - a.durations)[0];
  const wanted = reading.best?.frame_start_us ?? longest?.start_us ?? 0;
  let at = 0;
  let index = 0;
  const all = reading.cleaned.durations_us;
  while (at < wanted && index < all.length) at += all[index++] ?? 0;
  const known = reading.frames.find((frame) => frame.start_us === wanted);
  const durations = all.slice(index, index + (known?.durations ?? all.length));
  return { start: wanted, length: durations.reduce((sum, us) => sum + us, 0), durations };
}

function caption(reading: Reading, total: number): string {
  const frames = reading.frames.length;
  const period = reading.best?.period_us;
  const spacing = period ? `, ${(period / 1000).toFixed(1)} ms apart` : "";
  return `${(total / 1000).toFixed(1)} ms in ${frames} ${frames === 1 ? "frame" : "frames"}${spacing}; below, one of them`;
}

/** The middle of every duration, in µs from the start of the frame. */
function middlesOf(durations: number[]): number[] {
  const middles: number[] = [];
  let edge = 0;
  for (const us of durations) {
    middles.push(edge + us / 2);
    edge += us;
  }
  return middles;
}

/** The bits of a frame, and its fields under them. */
function Bits({ best, near }: { best: Candidate; near: (us: number) => number }) {
  return (
    <>
      {best.parts.map((part, index) => {
        const [from, to] = [near(part.from_us), near(part.to_us)];
        const bit = part.bit !== null && part.bit !== undefined;
        return (
          <g key={index}>
            {bit && index % 2 === 0 && (
              <rect
                x={from}
                y={WAVE.top - 3}
                width={to - from}
                height={WAVE.height + 22}
                className="fill-second/10"
              />
            )}
            {bit && to - from > 6 && (
              <text
                x={(from + to) / 2}
                y={BITS}
                textAnchor="middle"
                className="fill-ink font-mono text-[12px]"
              >
                {part.value ? 1 : 0}
              </text>
            )}
          </g>
        );
      })}
      {fieldsOf(best).map((field, index) => {
        const [from, to] = [near(field.from), near(field.to)];
        const value = field.value === undefined ? "" : ` ${field.value}`;
        const text = [`${field.label}${value}`, field.label, value.trim()].find(
          (candidate) => candidate && candidate.length * 6.6 < to - from - 4,
        );
        return (
          <g key={index}>
            <path
              d={`M ${from + 1.5} ${FIELDS} v 4 H ${to - 1.5} v -4`}
              className="fill-none stroke-second"
            />
            {text && (
              <text
                x={(from + to) / 2}
                y={FIELDS + 17}
                textAnchor="middle"
                className="fill-second text-[12px]"
              >
                {text}
              </text>
            )}
          </g>
        );
      })}
    </>
  );
}

/** How far each duration of a frame is off. */
function Errors({
  best,
  near,
  durations,
  width,
}: {
  best: Candidate;
  near: (us: number) => number;
  durations: number[];
  width: number;
}) {
  const middles = middlesOf(durations);
  const flip = Math.max(1, ...best.errors_us.map(Math.abs), 60);
  const y = scaleLinear([-flip, flip], [ERRORS.top + ERRORS.height, ERRORS.top]);
  return (
    <>
      <line x1={0} x2={width} y1={y(0)} y2={y(0)} className="stroke-rule" />
      {best.errors_us.map((error, index) => {
        const x = near(middles[index] ?? 0);
        return (
          <line key={index} x1={x} x2={x} y1={y(0)} y2={y(error)} className="stroke-accent" strokeWidth={2} />
        );
      })}
      <text x={1} y={ERRORS.top - 2} className="fill-muted text-[12px]">
        error of each duration, ± {Math.round(flip)} µs
      </text>
    </>
  );
}

function Ruler({ near, length }: { near: (us: number) => number; length: number }) {
  const ticks = scaleLinear([0, length], [0, 1]).ticks(8);
  return (
    <>
      {ticks.map((us) => (
        <g key={us}>
          <line
            x1={near(us)}
            x2={near(us)}
            y1={WAVE.top + WAVE.height}
            y2={WAVE.top + WAVE.height + 5}
            className="stroke-muted"
          />
          <text
            x={near(us)}
            y={WAVE.top + WAVE.height + 18}
            textAnchor={us === 0 ? "start" : "middle"}
            className="fill-muted font-mono text-[11.5px]"
          >
            {(us / 1000).toFixed(length < 8000 ? 1 : 0)} ms
          </text>
        </g>
      ))}
    </>
  );
}
