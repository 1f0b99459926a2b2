import type { Cupboard, FloorPlan, Opening } from "../../../api/types";
import { changed } from "./geometry";
import { LengthField } from "./LengthField";

const WALLS = [
  ["left", "left wall"],
  ["right", "right wall"],
  ["top", "upper wall"],
  ["bottom", "lower wall"],
] as const;

type WallName = (typeof WALLS)[number][0];

/** One of a list in the place of another one; none takes it out. */
const withOne = <T,>(list: readonly T[], at: number, next: T | undefined): T[] =>
  list.flatMap((own, one) => (one === at ? (next ? [next] : []) : [own]));

/** Doors and windows of a room. */
export function Openings({
  floor,
  feet,
  onPut,
}: {
  floor: FloorPlan;
  feet: boolean;
  onPut: (next: FloorPlan) => void;
}) {
  const set = (at: number, next: Opening | undefined) =>
    onPut({ ...floor, openings: withOne(floor.openings, at, next) });
  const add = (kind: Opening["kind"]) => {
    const door = kind === "door";
    const own: Opening = {
      wall: "bottom",
      kind,
      from_mm: 200,
      width_mm: Math.min(900, floor.size_mm[0] - 400),
      bottom_mm: door ? 0 : 900,
      height_mm: Math.min(door ? 2000 : 1200, floor.size_mm[2] - (door ? 0 : 900)),
    };
    onPut({ ...floor, openings: [...floor.openings, own] });
  };
  return (
    <section aria-label="Doors and windows" className="mt-3">
      <h4 className="text-[14px]">Doors and windows</h4>
      <ul>
        {floor.openings.map((own, at) => (
          <li key={at} className="flex flex-wrap items-end gap-3 border-b border-rule py-1">
            <span className="w-16 pb-1.5">{own.kind}</span>
            <Wall label="In" value={own.wall} onValue={(wall) => set(at, { ...own, wall })} />
            {(
              [
                ["Begins at", "from_mm"],
                ["Wide", "width_mm"],
                ["Above the floor", "bottom_mm"],
                ["High", "height_mm"],
              ] as const
            ).map(([label, field]) => (
              <LengthField
                key={field}
                label={label}
                feet={feet}
                className="w-24"
                mm={own[field]}
                onMm={(mm) => set(at, { ...own, [field]: Math.max(0, mm) })}
              />
            ))}
            <button
              type="button"
              className="link"
              aria-label={`Remove the ${own.kind} in the ${wallName(own.wall)}`}
              onClick={() => set(at, undefined)}
            >
              Remove
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-1 flex gap-2">
        <button type="button" className="btn" onClick={() => add("door")}>
          Add a door
        </button>
        <button type="button" className="btn" onClick={() => add("window")}>
          Add a window
        </button>
      </p>
    </section>
  );
}

/** Cupboards and shelves: closed, a cupboard keeps infrared light in. */
export function Cupboards({
  floor,
  feet,
  onPut,
}: {
  floor: FloorPlan;
  feet: boolean;
  onPut: (next: FloorPlan) => void;
}) {
  const set = (at: number, next: Cupboard | undefined) =>
    onPut({ ...floor, cupboards: withOne(floor.cupboards, at, next) });
  const add = () => {
    const own: Cupboard = {
      name: `Cupboard ${floor.cupboards.length + 1}`,
      at_mm: [Math.round(floor.size_mm[0] / 2), Math.max(250, floor.size_mm[1] - 250), 500],
      size_mm: [800, 450, 1000],
      opens_to: "top",
      closed: true,
      door_passes_percent: 0,
    };
    onPut({ ...floor, cupboards: [...floor.cupboards, own] });
  };
  return (
    <section aria-label="Cupboards and shelves" className="mt-3">
      <h4 className="text-[14px]">Cupboards and shelves</h4>
      <ul>
        {floor.cupboards.map((own, at) => (
          <li key={at} className="flex flex-wrap items-end gap-3 border-b border-rule py-1">
            <label className="block">
              <span className="label">Name</span>
              <input
                className="field w-36"
                defaultValue={own.name}
                maxLength={80}
                onBlur={(event) => {
                  const name = event.target.value.trim();
                  if (name && name !== own.name) set(at, { ...own, name });
                }}
              />
            </label>
            {(["From the left", "From the top", "Height of its middle"] as const).map((label, axis) => (
              <LengthField
                key={label}
                label={label}
                feet={feet}
                className="w-24"
                mm={own.at_mm[axis] ?? 0}
                onMm={(mm) => set(at, { ...own, at_mm: changed(own.at_mm, axis, mm) })}
              />
            ))}
            {(["Along", "Across", "High"] as const).map((label, axis) => (
              <LengthField
                key={label}
                label={label}
                feet={feet}
                className="w-24"
                mm={own.size_mm[axis] ?? 0}
                onMm={(mm) => set(at, { ...own, size_mm: changed(own.size_mm, axis, Math.max(1, mm)) })}
              />
            ))}
            <Wall
              label="Its door looks at"
              open
              value={own.opens_to ?? undefined}
              onValue={(opens_to) => set(at, { ...own, opens_to })}
              onOpen={() => set(at, { ...own, opens_to: null })}
            />
            {own.opens_to && (
              <label className="flex items-center gap-1.5 pb-1.5">
                <input
                  type="checkbox"
                  checked={own.closed}
                  onChange={(event) => set(at, { ...own, closed: event.target.checked })}
                />
                closed
              </label>
            )}
            <button
              type="button"
              className="link"
              aria-label={`Remove ${own.name}`}
              onClick={() => set(at, undefined)}
            >
              Remove
            </button>
          </li>
        ))}
      </ul>
      <button type="button" className="btn mt-1" onClick={add}>
        Add a cupboard
      </button>
    </section>
  );
}

const wallName = (wall: WallName) => WALLS.find(([one]) => one === wall)?.[1] ?? wall;

function Wall({
  label,
  value,
  onValue,
  open = false,
  onOpen,
}: {
  label: string;
  value: WallName | undefined;
  onValue: (wall: WallName) => void;
  /** May it be open all round, as a shelf is? */
  open?: boolean;
  onOpen?: () => void;
}) {
  return (
    <label className="block">
      <span className="label">{label}</span>
      <select
        className="field w-32"
        value={value ?? ""}
        onChange={(event) => {
          if (event.target.value === "") onOpen?.();
          else onValue(event.target.value as WallName);
        }}
      >
        {open && <option value="">nothing: a shelf</option>}
        {WALLS.map(([one, name]) => (
          <option key={one} value={one}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}
