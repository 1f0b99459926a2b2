import { contours } from "d3-contour";
import { useRef, useState } from "react";
import type { Cupboard, FloorPlan, Opening, Placed, ReachField, ReachLine } from "../../../api/types";
import {
  fontOf,
  footprint,
  labels,
  type LabelBox,
  landed,
  lengthText,
  marginAt,
  type Point,
  tip,
} from "./geometry";

/** Room around the plan, in mm: for names beside the walls. */
const EDGE = 260;

/** The margins at which the field has its edges, in dB, with what they are called. */
export const LEVELS = [
  [0, "barely"],
  [6, "6 dB"],
  [12, "12 dB"],
] as const;

const FILL = ["var(--field-0)", "var(--field-6)", "var(--field-12)"];

/** A step of the arrows, and of the arrows with Shift, in mm. */
const STEP = 50;
const LONG_STEP = 500;

interface Props {
  floor: FloorPlan;
  placed: readonly Placed[];
  name: (device: string) => string;
  /** What hangs over the others: screens that are down. */
  down: boolean;
  field?: ReachField | null;
  lines?: readonly ReachLine[];
  chosen: string | undefined;
  onChoose: (device: string) => void;
  onMove: (device: string, to: (own: Placed) => Point) => void;
  feet: boolean;
}

/** The floor plan: walls, openings, seats, and what stands where; things are dragged, or moved with the arrows. */
export function Drawing({ floor, placed, name, down, field, lines, chosen, onChoose, onMove, feet }: Props) {
  const [length, width] = floor.size_mm;
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<{ device: string; at: Point; from: Point }>();
  const font = fontOf(length);
  const [over, setOver] = useState<number>();
  const lineOf = (device: string) => lines?.find((line) => line.device === device);
  const where = (own: Placed): Point =>
    drag?.device === own.device ? landed(floor, footprint(own), drag.at) : [own.at_mm[0], own.at_mm[1]];
  const cupboard = (own: Cupboard) =>
    `${own.name}${own.opens_to ? (own.closed ? ", closed" : ", open") : ""}`;
  const boxes = floor.cupboards.map((own) => ({
    at: [own.at_mm[0], own.at_mm[1]] as Point,
    size: [own.size_mm[0], own.size_mm[1]] as Point,
    text: cupboard(own),
  }));
  const all = labels(
    [
      ...placed.map((own) => ({
        at: where(own),
        size: footprint(own),
        text: `${name(own.device)} ${saysOf(lineOf(own.device))}`.trim(),
      })),
      ...boxes,
    ],
    font,
    { x: -EDGE + 20, y: 30, width: length + 2 * EDGE - 40, height: width - 60 },
  );
  const spots = all.slice(0, placed.length);
  const at = (event: React.PointerEvent): Point => {
    const frame = svg.current?.getBoundingClientRect();
    if (!frame || frame.width === 0) return [0, 0];
    const scale = (length + 2 * EDGE) / frame.width;
    return [(event.clientX - frame.left) * scale - EDGE, (event.clientY - frame.top) * scale - EDGE];
  };
  const drop = (own: Placed) => {
    if (drag?.device === own.device) {
      const to = landed(floor, footprint(own), drag.at);
      if (to[0] !== own.at_mm[0] || to[1] !== own.at_mm[1]) onMove(own.device, () => to);
    }
    setDrag(undefined);
  };
  const arrow = (event: React.KeyboardEvent, own: Placed) => {
    const by = event.shiftKey ? LONG_STEP : STEP;
    const way = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[
      event.key
    ];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const [x, y] = way as [number, number];
    const within = (value: number, least: number, most: number) => Math.min(Math.max(value, least), most);
    onMove(own.device, (now) => {
      const [deep, wide] = footprint(now).map((one) => one / 2) as [number, number];
      return [
        within(now.at_mm[0] + x, Math.min(deep, length / 2), Math.max(length - deep, length / 2)),
        within(now.at_mm[1] + y, Math.min(wide, width / 2), Math.max(width - wide, width / 2)),
      ];
    });
  };
  return (
    <svg
      ref={svg}
      viewBox={`${-EDGE} ${-EDGE} ${length + 2 * EDGE} ${width + 2 * EDGE + 300}`}
      className="w-full touch-none select-none"
      role="group"
      aria-label={`Plan, ${lengthName(length, width, feet)}`}
      onPointerMove={(event) => setOver(field ? marginAt(field, at(event)) : undefined)}
      onPointerLeave={() => setOver(undefined)}
    >
      {field && <Field field={field} width={width} length={length} />}
      <rect x={0} y={0} width={length} height={width} fill="none" className="stroke-ink" strokeWidth={40} />
      {floor.openings.map((own, index) => (
        <Gap key={index} own={own} length={length} width={width} />
      ))}
      {floor.cupboards.map((own, index) => (
        <g key={own.name}>
          <rect
            x={own.at_mm[0] - own.size_mm[0] / 2}
            y={own.at_mm[1] - own.size_mm[1] / 2}
            width={own.size_mm[0]}
            height={own.size_mm[1]}
            className="fill-soft stroke-edge"
            strokeWidth={16}
          />
          <Label
            x={all[placed.length + index]?.x ?? 0}
            y={(all[placed.length + index]?.y ?? 0) + font * 0.82}
            font={font}
          >
            {cupboard(own)}
          </Label>
        </g>
      ))}
      {floor.seats.map((own) => (
        <g key={own.name} aria-hidden>
          <rect
            x={own.eye_mm[0] - 260}
            y={own.eye_mm[1] - 260}
            width={520}
            height={520}
            rx={90}
            className="fill-none stroke-edge"
            strokeWidth={14}
          />
        </g>
      ))}
      {placed.map((own, index) => (
        <Thing
          key={own.device}
          own={own}
          font={font}
          spot={spots[index]}
          at={where(own)}
          name={name(own.device)}
          line={lineOf(own.device)}
          chosen={chosen === own.device}
          down={down}
          onDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            onChoose(own.device);
            setDrag({ device: own.device, at: [own.at_mm[0], own.at_mm[1]], from: at(event) });
          }}
          onDrag={(event) => {
            if (drag?.device !== own.device) return;
            const here = at(event);
            setDrag({
              ...drag,
              at: [own.at_mm[0] + here[0] - drag.from[0], own.at_mm[1] + here[1] - drag.from[1]],
            });
          }}
          onDrop={() => drop(own)}
          onKey={(event) => arrow(event, own)}
          onFocus={() => onChoose(own.device)}
        />
      ))}
      {over !== undefined && (
        <text x={0} y={width + 240} fontSize={font * 0.92} className="fill-muted" data-testid="margin-here">
          here, {lengthText((field?.height_m ?? 0) * 1000, feet)} above the floor: {over.toFixed(1)} dB
        </text>
      )}
      <ScaleBar x={length - 1500} y={width + 200} feet={feet} font={font} />
    </svg>
  );
}

const lengthName = (length: number, width: number, feet: boolean) =>
  feet
    ? `${(length / 304.8).toFixed(1)} by ${(width / 304.8).toFixed(1)} ft`
    : `${(length / 1000).toFixed(2)} by ${(width / 1000).toFixed(2)} m`;

/** The field of a gateway with its contours. */
function Field({ field, length, width }: { field: ReachField; length: number; width: number }) {
  const levels = contours()
    .size([field.columns, field.rows])
    .smooth(true)
    .thresholds(LEVELS.map(([db]) => db * 10))(field.tenths_db);
  const step = field.step_m * 1000;
  return (
    <g aria-hidden clipPath="url(#walls)" data-testid="field">
      <clipPath id="walls">
        <rect x={0} y={0} width={length} height={width} />
      </clipPath>
      {levels.map((level, index) => (
        <path
          key={level.value}
          fillRule="evenodd"
          fill={FILL[index]}
          d={level.coordinates
            .flat()
            .map((ring) => `M${ring.map(([x = 0, y = 0]) => `${x * step} ${y * step}`).join("L")}Z`)
            .join("")}
        />
      ))}
    </g>
  );
}

/** A door or a window in its wall. */
function Gap({ own, length, width }: { own: Opening; length: number; width: number }) {
  const [from, to] = [own.from_mm, own.from_mm + own.width_mm];
  const ends = {
    left: [0, from, 0, to],
    right: [length, from, length, to],
    top: [from, 0, to, 0],
    bottom: [from, width, to, width],
  }[own.wall] as [number, number, number, number];
  const [x1, y1, x2, y2] = ends;
  return (
    <g aria-hidden>
      <line {...{ x1, y1, x2, y2 }} className="stroke-paper" strokeWidth={60} />
      <line
        {...{ x1, y1, x2, y2 }}
        className={own.kind === "window" ? "stroke-second" : "stroke-edge"}
        strokeWidth={own.kind === "window" ? 24 : 12}
        strokeDasharray={own.kind === "door" ? "60 50" : undefined}
      />
    </g>
  );
}

const TONE = { reaches: "fill-good", barely: "fill-caution", not: "fill-stop" } as const;

function Thing({
  own,
  at,
  font,
  spot,
  name,
  line,
  chosen,
  down,
  onDown,
  onDrag,
  onDrop,
  onKey,
  onFocus,
}: {
  own: Placed;
  at: Point;
  font: number;
  /** Where its name stands. */
  spot: LabelBox | undefined;
  name: string;
  line: ReachLine | undefined;
  chosen: boolean;
  down: boolean;
  onDown: (event: React.PointerEvent<SVGGElement>) => void;
  onDrag: (event: React.PointerEvent<SVGGElement>) => void;
  onDrop: () => void;
  onKey: (event: React.KeyboardEvent<SVGGElement>) => void;
  onFocus: () => void;
}) {
  const [w, d] = footprint(own);
  const [ax, ay] = tip(at, own.azimuth_deg, own.size_mm[1] / 2 + 220);
  const says = saysOf(line);
  return (
    <g
      role="button"
      tabIndex={0}
      aria-pressed={chosen}
      aria-label={`${name}${says && `, ${says}`}; arrows move it`}
      className="cursor-move outline-none [&:focus-visible>rect]:stroke-accent"
      onPointerDown={onDown}
      onPointerMove={onDrag}
      onPointerUp={onDrop}
      onPointerCancel={onDrop}
      onKeyDown={onKey}
      onFocus={onFocus}
    >
      <rect
        x={at[0] - w / 2 - 90}
        y={at[1] - d / 2 - 90}
        width={w + 180}
        height={d + 180}
        fill="transparent"
      />
      <rect
        x={at[0] - w / 2}
        y={at[1] - d / 2}
        width={w}
        height={d}
        className={`${chosen ? "stroke-accent" : "stroke-edge"} fill-paper`}
        strokeWidth={chosen ? 34 : 18}
        opacity={down ? 1 : 0.95}
      />
      <line
        x1={at[0]}
        y1={at[1]}
        x2={ax}
        y2={ay}
        className={chosen ? "stroke-accent" : "stroke-edge"}
        strokeWidth={16}
      />
      <circle
        cx={ax}
        cy={ay}
        r={34}
        className={line ? TONE[line.reached] : chosen ? "fill-accent" : "fill-edge"}
      />
      {spot && (
        <Label x={spot.x} y={spot.y + font * 0.82} font={font}>
          {name} <tspan className="fill-muted">{says}</tspan>
        </Label>
      )}
    </g>
  );
}

function Label({ x, y, font, children }: { x: number; y: number; font: number; children: React.ReactNode }) {
  return (
    <text
      x={x}
      y={y}
      fontSize={font * 0.92}
      className="fill-ink"
      style={{ paintOrder: "stroke" }}
      stroke="var(--paper)"
      strokeWidth={font * 0.22}
    >
      {children}
    </text>
  );
}

/** What is said of how a thing is reached. */
function saysOf(line: ReachLine | undefined): string {
  if (!line) return "";
  if (line.lead) return "by a lead";
  return line.reached === "not" ? "not reached" : `${line.margin_db?.toFixed(0)} dB`;
}

/** One metre, or three feet, at the scale of the drawing. */
export function ScaleBar({ x, y, feet, font }: { x: number; y: number; feet: boolean; font: number }) {
  const wide = feet ? 914.4 : 1000;
  return (
    <g aria-hidden className="stroke-edge" strokeWidth={12}>
      <line x1={x} y1={y} x2={x + wide} y2={y} />
      <line x1={x} y1={y - 50} x2={x} y2={y + 50} />
      <line x1={x + wide} y1={y - 50} x2={x + wide} y2={y + 50} />
      <text x={x + wide + 60} y={y + font * 0.3} fontSize={font * 0.85} className="fill-muted" stroke="none">
        {feet ? "3 ft" : "1 m"}
      </text>
    </g>
  );
}
