import { useState } from "react";
import type { Cupboard, FloorPlan, Lamp, Opening, Spot, Zone } from "../../../api/types";
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

const AXES = ["From the left", "From the top", "Above the floor"] as const;

/** Where gateways may be mounted, besides the usual places along the walls. */
export function Spots({
  floor,
  feet,
  onPut,
}: {
  floor: FloorPlan;
  feet: boolean;
  onPut: (next: FloorPlan) => void;
}) {
  const set = (at: number, next: Spot | undefined) =>
    onPut({ ...floor, spots: withOne(floor.spots, at, next) });
  const [length, width, height] = floor.size_mm;
  const add = () =>
    onPut({
      ...floor,
      spots: [
        ...floor.spots,
        {
          name: `spot ${floor.spots.length + 1}`,
          at_mm: [Math.round(length / 2), Math.round(width / 2), Math.max(0, height - 150)],
        },
      ],
    });
  return (
    <section aria-label="Spots for gateways" className="mt-3">
      <h4 className="text-[14px]">Spots for gateways</h4>
      <ul>
        {floor.spots.map((own, at) => (
          <li key={at} className="flex flex-wrap items-end gap-3 border-b border-rule py-1">
            <label className="block">
              <span className="label">Name</span>
              <input
                className="field w-40"
                defaultValue={own.name}
                maxLength={80}
                onBlur={(event) => {
                  const name = event.target.value.trim();
                  if (name && name !== own.name) set(at, { ...own, name });
                }}
              />
            </label>
            {AXES.map((label, axis) => (
              <LengthField
                key={label}
                label={label}
                feet={feet}
                className="w-24"
                mm={own.at_mm[axis] ?? 0}
                onMm={(mm) => set(at, { ...own, at_mm: changed(own.at_mm, axis, mm) })}
              />
            ))}
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
        Add a spot
      </button>
    </section>
  );
}

/** Lamps by zone, and daylight: what falls on the picture in each look. */
export function Lamps({
  floor,
  zones,
  feet,
  onPut,
}: {
  floor: FloorPlan;
  zones: readonly Zone[];
  feet: boolean;
  onPut: (next: FloorPlan) => void;
}) {
  const set = (at: number, next: Lamp | undefined) =>
    onPut({ ...floor, lamps: withOne(floor.lamps, at, next) });
  const [first] = zones;
  const [length, width, height] = floor.size_mm;
  return (
    <section aria-label="Lamps and daylight" className="mt-3">
      <h4 className="text-[14px]">Lamps and daylight</h4>
      <ul>
        {floor.lamps.map((own, at) => (
          <li key={at} className="flex flex-wrap items-end gap-3 border-b border-rule py-1">
            <label className="block">
              <span className="label">Zone</span>
              <select
                className="field w-36"
                value={own.zone}
                onChange={(event) => set(at, { ...own, zone: event.target.value })}
              >
                {!zones.some((zone) => zone.id === own.zone) && (
                  <option value={own.zone}>a removed zone</option>
                )}
                {zones.map((zone) => (
                  <option key={zone.id} value={zone.id}>
                    {zone.name}
                  </option>
                ))}
              </select>
            </label>
            <WholeField
              label="Light at 100 %, lm"
              value={own.lumens}
              most={100_000}
              onValue={(lumens) => set(at, { ...own, lumens })}
            />
            {AXES.map((label, axis) => (
              <LengthField
                key={label}
                label={label}
                feet={feet}
                className="w-24"
                mm={own.at_mm[axis] ?? 0}
                onMm={(mm) => set(at, { ...own, at_mm: changed(own.at_mm, axis, mm) })}
              />
            ))}
            <button
              type="button"
              className="link"
              aria-label={`Remove lamp ${at + 1}`}
              onClick={() => set(at, undefined)}
            >
              Remove
            </button>
          </li>
        ))}
      </ul>
      {first ? (
        <button
          type="button"
          className="btn mt-1"
          onClick={() =>
            onPut({
              ...floor,
              lamps: [
                ...floor.lamps,
                {
                  zone: first.id,
                  at_mm: [Math.round(length / 2), Math.round(width / 2), Math.max(0, height - 50)],
                  lumens: 800,
                },
              ],
            })
          }
        >
          Add a lamp
        </button>
      ) : (
        <p className="text-muted">This room has no zones of light yet: Cues makes them.</p>
      )}
      <div className="mt-2">
        <WholeField
          label="Daylight on the screen wall, lx"
          value={floor.daylight_lux}
          most={100_000}
          onValue={(daylight_lux) => onPut({ ...floor, daylight_lux })}
        />
      </div>
    </section>
  );
}

/** A whole number that is typed; what is none is said, and nothing is lost. */
function WholeField({
  label,
  value,
  most,
  onValue,
}: {
  label: string;
  value: number;
  most: number;
  onValue: (value: number) => void;
}) {
  const [typed, setTyped] = useState<string>();
  const read = typed === undefined || !/^\d+$/.test(typed.trim()) ? undefined : Number(typed);
  const wrong = typed !== undefined && (read === undefined || read > most);
  return (
    <label className="block">
      <span className="label">{label}</span>
      <input
        className="field w-28"
        inputMode="numeric"
        value={typed ?? String(value)}
        aria-invalid={wrong}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => {
          if (wrong || read === undefined) return;
          setTyped(undefined);
          if (read !== value) onValue(read);
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") setTyped(undefined);
        }}
      />
      {wrong && (
        <span role="alert" className="block text-[13px] text-stop">
          A whole number from 0 to {most}.
        </span>
      )}
    </label>
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
