import type { DeviceView, HouseView, RehearsalView } from "../../api/types";
import { floorOf, placedIn } from "../../api/space";
import { deviceName, profileOf, useRoom } from "../../shell/context";
import { PlacedDrawing } from "./PlacedDrawing";

const W = 720;
const H = 170;

/** The room in elevation: the screen as far down as it is, the projector's beam, what is shown. */
export function RoomDrawing({
  view,
  onPick,
}: {
  view: RehearsalView;
  onPick?: ((device: string) => void) | undefined;
}) {
  const { house, room, devices } = useRoom();
  const of = (kinds: string[]) => {
    const found = devices.find((device) => kinds.includes(profileOf(house, device).kind));
    return (
      found && {
        device: found,
        profile: profileOf(house, found),
        state: view.devices.find((d) => d.device === found.id),
      }
    );
  };
  const lit = (found: ReturnType<typeof of>) =>
    found?.state?.power === "on" || found?.state?.power === "always";
  const display = of(["display"]);
  const either = of(["projector"]);
  // Where there are both, the one that is on is drawn.
  const projector = display && lit(display) && !lit(either) ? undefined : either;
  const screen = of(["screen"]);
  if (!projector && !display) return null;
  const down = (screen?.state?.down_percent ?? 100) / 100;
  const shown = projector ?? display;
  const on = shown?.state?.power === "on" || shown?.state?.power === "always";
  const source = on && shown?.state ? sourceOf(house, view, shown.state) : undefined;
  const canvas = 104 * down;
  const says = `${screen ? `The screen is ${Math.round(down * 100)} % down. ` : ""}${source ? `The picture comes from ${source}.` : "There is no picture."}`;
  const floor = floorOf(house, room);
  const placed = placedIn(house, room, devices);
  if (floor && placed.length > 0)
    return <PlacedDrawing {...{ view, floor, placed, says, source }} {...(onPick && { onPick })} />;

  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="mt-2 h-[150px] w-full"
      preserveAspectRatio="xMinYMid meet"
      role="img"
      aria-label={says}
    >
      <line x1={0} x2={W} y1={H - 14} y2={H - 14} className="stroke-edge" />
      <line x1={40} x2={W} y1={8} y2={8} className="stroke-rule" />
      {projector ? (
        <>
          {on && (
            <polygon points={`560,34 232,24 232,${Math.max(24, 20 + canvas)}`} className="fill-caution/15" />
          )}
          <rect x={48} y={10} width={186} height={9} className="fill-soft stroke-edge" />
          <rect
            x={54}
            y={19}
            width={174}
            height={canvas}
            className={source ? "fill-caution/25 stroke-ink" : "fill-paper stroke-edge"}
          />
          {screen && <rect x={52} y={17 + canvas} width={178} height={4} className="fill-ink" />}
          <rect
            x={560}
            y={24}
            width={58}
            height={20}
            rx={3}
            className={on ? "fill-accent stroke-accent" : "fill-soft stroke-edge"}
          />
          <line x1={589} x2={589} y1={8} y2={24} className="stroke-edge" />
          <text x={626} y={39} className="fill-ink text-[13px]">
            {projector.device.name}
          </text>
        </>
      ) : (
        <rect
          x={60}
          y={30}
          width={190}
          height={106}
          className={on ? "fill-caution/25 stroke-ink" : "fill-soft stroke-edge"}
        />
      )}
      <text
        x={141}
        y={Math.max(44, 24 + canvas / 2)}
        textAnchor="middle"
        className="fill-ink text-[14px] font-semibold"
      >
        {source ?? (canvas > 60 ? (on ? "no signal" : "no picture") : "")}
      </text>
      <Couch />
      {screen?.state?.moving && (
        <text x={250} y={104} className="fill-caution text-[13px] font-semibold">
          Keep clear: the screen is{" "}
          {typeof screen.state.moving === "string" ? `going ${screen.state.moving}` : "moving to a stop"},{" "}
          {screen.state.down_percent} % down
        </text>
      )}
    </svg>
  );
}

/** Which device the picture comes from, followed back through the chosen inputs. */
function sourceOf(house: HouseView, view: RehearsalView, from: DeviceView): string | undefined {
  let own = from;
  for (let hops = 0; hops < 8; hops++) {
    const { device, input } = own;
    const cable = house.connections.find((c) => c.to_device === device && c.to_input === input);
    if (!cable) return hops === 0 ? undefined : deviceName(house, device);
    const next = view.devices.find((d) => d.device === cable.from_device);
    if (!next || ["off", "cooling", "starting"].includes(next.power)) return undefined;
    own = next;
  }
  return undefined;
}

function Couch() {
  return (
    <path
      d={`M 430 ${H - 14} v -34 q 0 -8 8 -8 h 6 q 8 0 8 8 v 12 h 52 q 8 0 8 8 v 14`}
      className="fill-none stroke-edge"
      strokeWidth={1.5}
    />
  );
}
