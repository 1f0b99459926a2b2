import type { DeviceView, FloorPlan, Placed, RehearsalView } from "../../api/types";
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
        <g key={own.name} aria-hidden className="stroke-edge" strokeWidth={16}>
          <circle cx={own.eye_mm[0]} cy={z(own.eye_mm[2])} r={70} className="fill-paper" />
          <path
            d={`M${own.eye_mm[0]} ${z(own.eye_mm[2] - 70)}V${z(420)}H${own.eye_mm[0] - 240}`}
            fill="none"
          />
        </g>
      ))}
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
