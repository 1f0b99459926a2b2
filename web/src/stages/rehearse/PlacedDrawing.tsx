import { useState } from "react";
import type { DeviceView, FloorPlan, Placed, RehearsalView, Seat } from "../../api/types";
import { opticsOf, surfaceOf } from "../../api/space";
import { deviceName, useRoom } from "../../shell/context";

/** Room around the section, in mm. */
const EDGE = 240;

/** How large the largest light of a lamp is drawn, in mm. */
const GLOW = 900;

const isOn = (state: DeviceView | undefined) => state?.power === "on" || state?.power === "always";

/** The room as its plan has it, in section, and live: the screen as far down as it is, beam, lamps, who moves. */
export function PlacedDrawing({
  view,
  floor,
  placed,
  says,
  source,
  onPick,
}: {
  view: RehearsalView;
  floor: FloorPlan;
  placed: readonly Placed[];
  /** The drawing in words. */
  says: string;
  /** Where the picture comes from; none where there is none. */
  source: string | undefined;
  onPick?: (device: string) => void;
}) {
  const { house } = useRoom();
  const [seated, setSeated] = useState<readonly string[]>([]);
  const [length, , height] = floor.size_mm;
  const z = (mm: number) => height - mm;
  const state = (device: string) => view.devices.find((one) => one.device === device);
  const screen = placed.find((own) => surfaceOf(house, own.device)?.black_mm);
  const surface = screen && surfaceOf(house, screen.device);
  const down = screen ? (state(screen.device)?.down_percent ?? 100) / 100 : 1;
  const case_ = screen ? screen.at_mm[2] - screen.size_mm[2] / 2 : 0;
  const travel = surface ? (surface.black_mm ?? 0) + surface.size_mm[1] + (surface.below_mm ?? 0) : 0;
  const end = case_ - down * travel;
  const top = Math.min(case_, end + (surface?.below_mm ?? 0) + (surface?.size_mm[1] ?? 0));
  const projector = placed.find((own) => opticsOf(house, own.device)?.lens && isOn(state(own.device)));
  const moving = screen && state(screen.device)?.moving;
  const somebody = view.devices.some((one) => one.tripped);
  const door = floor.openings.find((one) => one.kind === "door");
  const doorAt = !door
    ? 0
    : door.wall === "left"
      ? 250
      : door.wall === "right"
        ? length - 250
        : door.from_mm + door.width_mm / 2;
  return (
    <svg
      viewBox={`${-EDGE} ${-EDGE} ${length + 2 * EDGE} ${height + 2 * EDGE}`}
      className="mt-2 max-h-[260px] w-full"
      preserveAspectRatio="xMinYMid meet"
      role="group"
      aria-label={says}
    >
      {floor.lamps.map((lamp, at) => {
        const level = view.light.zones.find((zone) => zone.zone === lamp.zone)?.percent ?? 0;
        return (
          <circle
            key={at}
            cx={lamp.at_mm[0]}
            cy={z(lamp.at_mm[2])}
            r={GLOW * Math.sqrt(Math.min(1, lamp.lumens / 800))}
            className="fill-caution"
            opacity={(level / 100) * 0.22}
          />
        );
      })}
      {projector && screen && down > 0 && (
        <polygon
          points={`${projector.at_mm[0]},${z(projector.at_mm[2])} ${screen.at_mm[0]},${z(top)} ${screen.at_mm[0]},${z(end)}`}
          className="fill-caution/20"
        />
      )}
      <rect x={0} y={0} width={length} height={height} fill="none" className="stroke-edge" strokeWidth={28} />
      {screen && (
        <line
          x1={screen.at_mm[0]}
          x2={screen.at_mm[0]}
          y1={z(case_)}
          y2={z(end)}
          className={source ? "stroke-caution" : "stroke-ink"}
          strokeWidth={44}
        />
      )}
      {placed.map((own) => (
        <Thing
          key={own.device}
          own={own}
          y={z(own.at_mm[2])}
          name={deviceName(house, own.device)}
          on={state(own.device)?.power === "on"}
          onPick={onPick && (() => onPick(own.device))}
        />
      ))}
      {floor.seats.map((own) => (
        <Sitter
          key={own.name}
          seat={own}
          z={z}
          seated={seated.includes(own.name)}
          bottom={screen && down > 0.4 ? [screen.at_mm[0], end + (surface?.below_mm ?? 0)] : undefined}
          onSit={() =>
            setSeated((old) =>
              old.includes(own.name) ? old.filter((one) => one !== own.name) : [...old, own.name],
            )
          }
        />
      ))}
      {somebody && door && (
        <g role="img" aria-label="Somebody walks in" className="stroke-caution" strokeWidth={24}>
          <circle cx={doorAt} cy={z(1600)} r={90} className="fill-caution" />
          <path
            d={`M${doorAt} ${z(1500)}V${z(850)}M${doorAt} ${z(850)}L${doorAt - 160} ${z(0)}M${doorAt} ${z(850)}L${doorAt + 160} ${z(0)}M${doorAt - 200} ${z(1150)}L${doorAt} ${z(1380)}L${doorAt + 200} ${z(1150)}`}
            fill="none"
          />
        </g>
      )}
      {screen && down > 0.4 && (
        <text
          x={screen.at_mm[0] + 160}
          y={z((top + end) / 2)}
          fontSize={150}
          className="fill-ink font-semibold"
        >
          {source ?? (projector ? "no signal" : "no picture")}
        </text>
      )}
      {screen && moving && (
        <text x={screen.at_mm[0] + 160} y={z(300)} fontSize={170} className="fill-caution font-semibold">
          Keep clear: the screen is {typeof moving === "string" ? `going ${moving}` : "moving to a stop"},{" "}
          {Math.round(down * 100)} % down
        </text>
      )}
    </svg>
  );
}

/** A seat; whoever clicks it sits down, and sees what can be seen from there. */
function Sitter({
  seat,
  z,
  seated,
  bottom,
  onSit,
}: {
  seat: Seat;
  z: (mm: number) => number;
  seated: boolean;
  /** The bottom edge of the picture; none where there is none. */
  bottom: readonly [number, number] | undefined;
  onSit: () => void;
}) {
  const [x, , eye] = seat.eye_mm;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-pressed={seated}
      aria-label={`${seat.name}: ${seated ? "somebody sits here" : "nobody sits here"}`}
      onClick={onSit}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        event.stopPropagation();
        onSit();
      }}
      className={`cursor-pointer outline-none [&:focus-visible>circle]:stroke-accent ${seated ? "stroke-ink" : "stroke-edge"}`}
      strokeWidth={seated ? 24 : 16}
    >
      <rect x={x - 300} y={z(eye + 130)} width={460} height={eye + 130} fill="transparent" stroke="none" />
      {seated && bottom && (
        <line x1={x} y1={z(eye)} x2={bottom[0]} y2={z(bottom[1])} strokeWidth={8} strokeDasharray="60 40" />
      )}
      <circle cx={x} cy={z(eye)} r={seated ? 100 : 70} className={seated ? "fill-ink" : "fill-paper"} />
      <path d={`M${x} ${z(eye - 70)}V${z(420)}H${x - 240}`} fill="none" />
    </g>
  );
}

/** A device in the section; whoever clicks it gets its hands below. */
function Thing({
  own,
  y,
  name,
  on,
  onPick,
}: {
  own: Placed;
  y: number;
  name: string;
  on: boolean;
  onPick: (() => void) | undefined;
}) {
  const [, deep, high] = own.size_mm;
  const press = (event: React.KeyboardEvent) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    event.stopPropagation();
    onPick?.();
  };
  return (
    <g
      {...(onPick
        ? { role: "button", tabIndex: 0, "aria-label": `Hands at ${name}`, onClick: onPick, onKeyDown: press }
        : { "aria-hidden": true })}
      className={onPick && "cursor-pointer outline-none [&:focus-visible>rect]:stroke-accent"}
    >
      <rect
        x={own.at_mm[0] - Math.max(deep, 260) / 2}
        y={y - Math.max(high, 260) / 2}
        width={Math.max(deep, 260)}
        height={Math.max(high, 260)}
        fill="transparent"
      />
      <rect
        x={own.at_mm[0] - deep / 2}
        y={y - high / 2}
        width={deep}
        height={high}
        className={on ? "fill-accent stroke-accent" : "fill-soft stroke-edge"}
        strokeWidth={16}
      />
      <text x={own.at_mm[0] - deep / 2} y={y - high / 2 - 40} fontSize={150} className="fill-muted">
        {name}
      </text>
    </g>
  );
}
