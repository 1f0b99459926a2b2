import { scaleLinear } from "d3-scale";
import { useLayoutEffect, useRef, useState } from "react";
import type { Device, Plan, Profile, Step } from "../../api/types";
import { clockTime } from "../../ui/time";
import { placeLabels, timeTicks } from "./lanes";

const NAMES = 118;
const ROW = 44;
const TOP = 26;

let canvas: CanvasRenderingContext2D | null | undefined;

/** The width of a text in the small type of the lanes. */
function measure(text: string): number {
  canvas ??= document.createElement("canvas").getContext("2d");
  if (!canvas) return text.length * 6.6;
  canvas.font = '12.5px "Atkinson Hyperlegible Next Variable", sans-serif';
  return canvas.measureText(text).width;
}

/** The plan as a course: a lane a device, commands as ticks, waits as bars, the bound as a line. */
export function Lanes({
  plan,
  devices,
  profiles,
  now_ms,
}: {
  plan: Plan;
  devices: Device[];
  profiles: Profile[];
  now_ms?: number;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const used = new Set([...plan.steps.map((step) => step.device), ...plan.waits.map((wait) => wait.device)]);
  const lanes = devices.filter((device) => used.has(device.id));
  const end = Math.max(plan.ready_ms ?? 0, plan.end_ms, 1000);
  const x = scaleLinear([0, end], [NAMES, Math.max(NAMES + 100, width - 14)]);
  const bottom = TOP + lanes.length * ROW;
  return (
    <div ref={ref} className="w-full overflow-hidden">
      {width > 0 && (
        <svg
          width={width}
          height={bottom + 26}
          role="img"
          aria-label={`Plan: ${plan.steps.length} commands to ${lanes.length} devices, ${plan.ready_ms == null ? "cannot be sent" : `ready after ${clockTime(plan.ready_ms)}`}, bound ${clockTime(plan.bound_ms)}`}
        >
          <defs>
            {lanes.map((device, index) => (
              <clipPath key={device.id} id={`lane-${device.id}`}>
                <rect x={NAMES} y={TOP + index * ROW} width={Math.max(0, width - NAMES)} height={ROW} />
              </clipPath>
            ))}
          </defs>
          {timeTicks(end, Math.max(2, Math.min(10, Math.floor((width - NAMES) / 48)))).map((ms) => (
            <g key={ms}>
              <line
                x1={x(ms)}
                x2={x(ms)}
                y1={TOP - 4}
                y2={bottom}
                className="stroke-rule"
                strokeDasharray="1 4"
              />
              <text
                x={x(ms)}
                y={14}
                textAnchor={x(ms) > width - 30 ? "end" : "middle"}
                className="fill-muted font-mono text-[11.5px]"
              >
                {clockTime(ms).replace(/\.0$/, "")}
              </text>
            </g>
          ))}
          {lanes.map((device, index) => (
            <Lane
              key={device.id}
              plan={plan}
              device={device}
              model={profiles.find((known) => known.id === device.profile)}
              top={TOP + index * ROW}
              width={width}
              x={x}
            />
          ))}
          {!!plan.ready_ms && (
            <Finish plan={plan} readyAt={plan.ready_ms} x={x} bottom={bottom} width={width} />
          )}
          {now_ms !== undefined && now_ms <= end && (
            <line
              x1={x(now_ms)}
              x2={x(now_ms)}
              y1={TOP - 6}
              y2={bottom}
              className="stroke-second"
              strokeWidth={2}
            />
          )}
        </svg>
      )}
    </div>
  );
}

function Lane({
  plan,
  device,
  model,
  top,
  width,
  x,
}: {
  plan: Plan;
  device: Device;
  model: Profile | undefined;
  top: number;
  width: number;
  x: (ms: number) => number;
}) {
  const steps = plan.steps.filter((step) => step.device === device.id);
  const waits = plan.waits.filter((wait) => wait.device === device.id);
  // Beside the tick, however wide it is.
  const labelX = (step: Step) => Math.max(x(step.start_ms) + 6, x(step.end_ms) + 3);
  const labels = placeLabels(
    steps.map((step) => ({
      x: labelX(step),
      name: step.code ? step.name : `${step.name} (no code)`,
    })),
    measure,
    width,
  );
  // Only the command at which a label starts is drawn up to it: the others would strike it through.
  const labelled = (start_x: number) => labels.some((label) => Math.abs(label.x - start_x) < 0.5);
  return (
    <g>
      <text x={0} y={top + 20} className="fill-ink text-[14px] font-semibold">
        {shortened(device.name, NAMES - 12, 1.12)}
      </text>
      <text x={0} y={top + 35} className="fill-muted text-[12px]">
        {shortened(model ? `${model.maker} ${model.model}` : "", NAMES - 12, 1)}
      </text>
      <line x1={0} x2={width} y1={top + ROW} y2={top + ROW} className="stroke-rule" />
      <g clipPath={`url(#lane-${device.id})`}>
        {waits.map((wait) => {
          // Where the next command comes before this has shown, its bar ends at that command.
          const next = steps.find((step) => step.start_ms >= wait.from_ms);
          const [from, to] = [x(wait.from_ms) + 2, x(Math.min(wait.to_ms, next?.start_ms ?? wait.to_ms))];
          const assumed = wait.span.basis.from === "assumed";
          const label = [wait.label, wait.label.replace(/,.*$/, ""), wait.label.split(" · ")[0] ?? ""].find(
            (text) => measure(text) * 0.92 < to - from - 8,
          );
          return (
            <g key={`${wait.from_ms} ${wait.effect}`}>
              <rect
                x={from}
                y={top + 22}
                width={Math.max(2, to - from)}
                height={15}
                strokeDasharray={assumed ? "3 3" : undefined}
                className={
                  wait.critical
                    ? "fill-accent/10 stroke-accent"
                    : wait.effect === "travel"
                      ? "fill-second/15 stroke-second"
                      : "fill-ink/5 stroke-edge"
                }
              >
                <title>{wait.label}</title>
              </rect>
              {label && (
                <text x={from + 5} y={top + 33} className="fill-ink text-[11.5px]">
                  {label}
                </text>
              )}
            </g>
          );
        })}
        {steps.map((step) => (
          <rect
            key={step.index}
            x={x(step.start_ms)}
            y={labelled(labelX(step)) ? top + 8 : top + 22}
            width={Math.max(3, x(step.end_ms) - x(step.start_ms))}
            height={labelled(labelX(step)) ? 29 : 15}
            className={step.code ? (step.critical ? "fill-accent" : "fill-ink") : "fill-none stroke-stop"}
          >
            <title>{`${step.name} at ${clockTime(step.start_ms)}`}</title>
          </rect>
        ))}
        {labels.map((label) => (
          <text key={label.x} x={label.x} y={top + 18} className="fill-ink text-[12.5px]">
            {label.text}
          </text>
        ))}
      </g>
    </g>
  );
}

function shortened(text: string, room: number, scale: number): string {
  if (measure(text) * scale <= room) return text;
  let cut = text;
  while (cut.length > 1 && measure(`${cut}…`) * scale > room) cut = cut.slice(0, -1);
  return `${cut}…`;
}

/** Where picture and sound are there, and the bound beside it. */
function Finish({
  plan,
  readyAt,
  x,
  bottom,
  width,
}: {
  plan: Plan;
  readyAt: number;
  x: (ms: number) => number;
  bottom: number;
  width: number;
}) {
  const to = plan.to.is === "off" ? "all off" : "picture and sound";
  const ready = `${to} ${clockTime(readyAt)}`;
  const bound = `bound ${clockTime(plan.bound_ms)}`;
  const wide = measure(ready) * 1.1 + measure(bound) + 16;
  const left = Math.max(0, Math.min(x(readyAt) - measure(ready) * 1.1, width - wide));
  return (
    <g>
      <line
        x1={x(plan.bound_ms)}
        x2={x(plan.bound_ms)}
        y1={TOP - 6}
        y2={bottom + 6}
        className="stroke-ink"
        strokeDasharray="2 3"
      />
      <line
        x1={x(readyAt)}
        x2={x(readyAt)}
        y1={TOP - 6}
        y2={bottom + 6}
        className="stroke-accent"
        strokeWidth={2}
      />
      <text x={left} y={bottom + 20} className="fill-accent text-[12.5px] font-semibold">
        {ready}
      </text>
      <text x={left + measure(ready) * 1.1 + 10} y={bottom + 20} className="fill-muted text-[12.5px]">
        {bound}
      </text>
    </g>
  );
}
