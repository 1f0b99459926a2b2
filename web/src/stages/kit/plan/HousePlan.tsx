import { floorOf } from "../../../api/space";
import type { FloorPlan } from "../../../api/types";
import { useRoom } from "../../../shell/context";
import type { ChangeFloor } from "./edits";
import { LengthField } from "./LengthField";
import { fontOf, lengthText } from "./geometry";

/** How far the drawing goes beyond the rooms, in mm. */
const EDGE_MM = 600;

/** Where the rooms of a house stand to each other, storey by storey: radio passes walls and ceilings between them. */
export function HousePlan({ floor, feet, change }: { floor: FloorPlan; feet: boolean; change: ChangeFloor }) {
  const { house, room } = useRoom();
  const drawn = house.rooms.flatMap((one) => {
    const own = one.id === room ? floor : floorOf(house, one.id);
    return own ? [{ id: one.id, name: one.name, floor: own }] : [];
  });
  const storeys = [...new Set(drawn.map((one) => one.floor.storey))].sort((a, b) => b - a);
  return (
    <section aria-label="The place of the room in the house" className="mt-3">
      <h4 className="text-[14px]">Its place in the house</h4>
      <p className="text-[13px] text-muted">
        Radio is worked out through walls and ceilings between rooms that stand on this plan.
      </p>
      <div className="mt-1 flex flex-wrap items-end gap-3">
        <label className="block">
          <span className="label">Storey</span>
          <input
            type="number"
            className="field w-20"
            min={-5}
            max={20}
            value={floor.storey}
            onChange={(event) => {
              const storey = Number(event.target.value);
              if (Number.isInteger(storey) && storey >= -5 && storey <= 20)
                change((now) => ({ ...now, storey }));
            }}
          />
        </label>
        {(["Corner from the left of the house", "Corner from the top of the house"] as const).map(
          (label, axis) => (
            <LengthField
              key={label}
              label={label}
              feet={feet}
              mm={floor.at_mm[axis] ?? 0}
              onMm={(mm) =>
                change((now) => {
                  const at_mm: [number, number] = [now.at_mm[0], now.at_mm[1]];
                  at_mm[axis] = mm;
                  return { ...now, at_mm };
                })
              }
            />
          ),
        )}
      </div>
      {storeys.map((storey) => (
        <Storey
          key={storey}
          storey={storey}
          rooms={drawn.filter((one) => one.floor.storey === storey)}
          own={room}
          feet={feet}
        />
      ))}
    </section>
  );
}

function Storey({
  storey,
  rooms,
  own,
  feet,
}: {
  storey: number;
  rooms: readonly { id: string; name: string; floor: FloorPlan }[];
  own: string;
  feet: boolean;
}) {
  const left = Math.min(...rooms.map((one) => one.floor.at_mm[0]));
  const top = Math.min(...rooms.map((one) => one.floor.at_mm[1]));
  const right = Math.max(...rooms.map((one) => one.floor.at_mm[0] + one.floor.size_mm[0]));
  const bottom = Math.max(...rooms.map((one) => one.floor.at_mm[1] + one.floor.size_mm[1]));
  const [length, width] = [right - left + 2 * EDGE_MM, bottom - top + 2 * EDGE_MM];
  const font = fontOf(length);
  const title = storey === 0 ? "Ground floor" : storey > 0 ? `Storey ${storey}` : `Cellar ${-storey}`;
  return (
    <figure className="mt-2">
      <figcaption className="text-[13px] text-muted">{title}</figcaption>
      <svg
        viewBox={`${left - EDGE_MM} ${top - EDGE_MM} ${length} ${width}`}
        className="max-h-64 w-full"
        role="img"
        aria-label={`${title}: ${rooms
          .map(
            (one) =>
              `${one.name}, ${lengthText(one.floor.size_mm[0], feet)} by ${lengthText(one.floor.size_mm[1], feet)}`,
          )
          .join("; ")}`}
      >
        {rooms.map((one) => {
          const [x, y] = one.floor.at_mm;
          return (
            <g key={one.id}>
              <rect
                x={x}
                y={y}
                width={one.floor.size_mm[0]}
                height={one.floor.size_mm[1]}
                fill={one.id === own ? "var(--color-select)" : "none"}
                stroke="currentColor"
                strokeWidth={font / 8}
              />
              <text x={x + font / 2} y={y + font * 1.2} fontSize={font} fill="currentColor">
                {one.name}
              </text>
            </g>
          );
        })}
      </svg>
    </figure>
  );
}
