import type { FloorPlan, Opening, Zone } from "../../../api/types";
import { listEditor, type ChangeFloor } from "./edits";
import { LengthField } from "./LengthField";
import { AXES, Line, NameField, ThreeLengths, WholeField } from "./Lines";

const WALLS = [
  ["left", "left wall"],
  ["right", "right wall"],
  ["top", "upper wall"],
  ["bottom", "lower wall"],
] as const;

type WallName = (typeof WALLS)[number][0];

interface Part {
  floor: FloorPlan;
  feet: boolean;
  change: ChangeFloor;
}

/** Where people sit. */
export function Seats({ floor, feet, change }: Part) {
  const { set, remove, add } = listEditor("seats", change);
  const last = Math.max(1, ...floor.seats.map((own) => own.row));
  const many = floor.seats.filter((own) => own.row === last).length;
  const [length, width] = floor.size_mm;
  return (
    <section aria-label="Seats" className="mt-3">
      <h4 className="text-[14px]">Seats</h4>
      <ul>
        {floor.seats.map((own, at) => (
          <Line key={at} remove={own.name} onRemove={() => remove(at)}>
            <NameField name={own.name} onName={(name) => set(at, (now) => ({ ...now, name }))} />
            <ThreeLengths
              labels={["From the left", "From the top", "Eye above the floor"]}
              value={own.eye_mm}
              feet={feet}
              onChange={(to) => set(at, (now) => ({ ...now, eye_mm: to(now.eye_mm) }))}
            />
            <label className="block">
              <span className="label">Row</span>
              <input
                type="number"
                className="field w-16"
                min={1}
                max={40}
                value={own.row}
                onChange={(event) => {
                  const row = Number(event.target.value);
                  if (row >= 1 && row <= 40) set(at, (now) => ({ ...now, row }));
                }}
              />
            </label>
          </Line>
        ))}
      </ul>
      <button
        type="button"
        className="btn mt-1"
        onClick={() =>
          add({
            name: `row ${last}, seat ${many + 1}`,
            row: last,
            eye_mm: [Math.round(length * 0.6), Math.round(width / 2), 1150],
          })
        }
      >
        Add a seat
      </button>
    </section>
  );
}

/** Doors and windows of a room. */
export function Openings({ floor, feet, change }: Part) {
  const { set, remove, add } = listEditor("openings", change);
  const begin = (kind: Opening["kind"]) => {
    const door = kind === "door";
    add({
      wall: "bottom",
      kind,
      from_mm: 200,
      width_mm: Math.min(900, floor.size_mm[0] - 400),
      bottom_mm: door ? 0 : 900,
      height_mm: Math.min(door ? 2000 : 1200, floor.size_mm[2] - (door ? 0 : 900)),
    });
  };
  return (
    <section aria-label="Doors and windows" className="mt-3">
      <h4 className="text-[14px]">Doors and windows</h4>
      <ul>
        {floor.openings.map((own, at) => (
          <Line key={at} remove={`the ${own.kind} in the ${wallName(own.wall)}`} onRemove={() => remove(at)}>
            <span className="w-16 pb-1.5">{own.kind}</span>
            <Wall label="In" value={own.wall} onValue={(wall) => set(at, (now) => ({ ...now, wall }))} />
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
                onMm={(mm) => set(at, (now) => ({ ...now, [field]: Math.max(0, mm) }))}
              />
            ))}
          </Line>
        ))}
      </ul>
      <p className="mt-1 flex gap-2">
        <button type="button" className="btn" onClick={() => begin("door")}>
          Add a door
        </button>
        <button type="button" className="btn" onClick={() => begin("window")}>
          Add a window
        </button>
      </p>
    </section>
  );
}

/** Cupboards and shelves: closed, a cupboard keeps infrared light in. */
export function Cupboards({ floor, feet, change }: Part) {
  const { set, remove, add } = listEditor("cupboards", change);
  const begin = () =>
    add({
      name: `Cupboard ${floor.cupboards.length + 1}`,
      at_mm: [Math.round(floor.size_mm[0] / 2), Math.max(250, floor.size_mm[1] - 250), 500],
      size_mm: [800, 450, 1000],
      opens_to: "top",
      closed: true,
      door_passes_percent: 0,
    });
  return (
    <section aria-label="Cupboards and shelves" className="mt-3">
      <h4 className="text-[14px]">Cupboards and shelves</h4>
      <ul>
        {floor.cupboards.map((own, at) => (
          <Line key={at} remove={own.name} onRemove={() => remove(at)}>
            <NameField name={own.name} onName={(name) => set(at, (now) => ({ ...now, name }))} />
            <ThreeLengths
              labels={["From the left", "From the top", "Height of its middle"]}
              value={own.at_mm}
              feet={feet}
              onChange={(to) => set(at, (now) => ({ ...now, at_mm: to(now.at_mm) }))}
            />
            <ThreeLengths
              labels={["Along", "Across", "High"]}
              value={own.size_mm}
              feet={feet}
              least={1}
              onChange={(to) => set(at, (now) => ({ ...now, size_mm: to(now.size_mm) }))}
            />
            <Wall
              label="Its door looks at"
              open
              value={own.opens_to ?? undefined}
              onValue={(opens_to) => set(at, (now) => ({ ...now, opens_to }))}
              onOpen={() => set(at, (now) => ({ ...now, opens_to: null }))}
            />
            {own.opens_to && (
              <label className="flex items-center gap-1.5 pb-1.5">
                <input
                  type="checkbox"
                  checked={own.closed}
                  onChange={(event) => {
                    const closed = event.target.checked;
                    set(at, (now) => ({ ...now, closed }));
                  }}
                />
                closed
              </label>
            )}
          </Line>
        ))}
      </ul>
      <button type="button" className="btn mt-1" onClick={begin}>
        Add a cupboard
      </button>
    </section>
  );
}

/** Where gateways may be mounted, besides the usual places along the walls. */
export function Spots({ floor, feet, change }: Part) {
  const { set, remove, add } = listEditor("spots", change);
  const [length, width, height] = floor.size_mm;
  const begin = () =>
    add({
      name: `spot ${floor.spots.length + 1}`,
      at_mm: [Math.round(length / 2), Math.round(width / 2), Math.max(0, height - 150)],
    });
  return (
    <section aria-label="Spots for gateways" className="mt-3">
      <h4 className="text-[14px]">Spots for gateways</h4>
      <ul>
        {floor.spots.map((own, at) => (
          <Line key={at} remove={own.name} onRemove={() => remove(at)}>
            <NameField name={own.name} onName={(name) => set(at, (now) => ({ ...now, name }))} />
            <ThreeLengths
              labels={AXES}
              value={own.at_mm}
              feet={feet}
              onChange={(to) => set(at, (now) => ({ ...now, at_mm: to(now.at_mm) }))}
            />
          </Line>
        ))}
      </ul>
      <button type="button" className="btn mt-1" onClick={begin}>
        Add a spot
      </button>
    </section>
  );
}

/** Lamps by zone, and daylight: what falls on the picture in each look. */
export function Lamps({ floor, zones, feet, change }: Part & { zones: readonly Zone[] }) {
  const { set, remove, add } = listEditor("lamps", change);
  const [first] = zones;
  const [length, width, height] = floor.size_mm;
  return (
    <section aria-label="Lamps and daylight" className="mt-3">
      <h4 className="text-[14px]">Lamps and daylight</h4>
      <ul>
        {floor.lamps.map((own, at) => (
          <Line key={at} remove={`lamp ${at + 1}`} onRemove={() => remove(at)}>
            <label className="block">
              <span className="label">Zone</span>
              <select
                className="field w-36"
                value={own.zone}
                onChange={(event) => {
                  const zone = event.target.value;
                  set(at, (now) => ({ ...now, zone }));
                }}
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
              onValue={(lumens) => set(at, (now) => ({ ...now, lumens }))}
            />
            <ThreeLengths
              labels={AXES}
              value={own.at_mm}
              feet={feet}
              onChange={(to) => set(at, (now) => ({ ...now, at_mm: to(now.at_mm) }))}
            />
          </Line>
        ))}
      </ul>
      {first ? (
        <button
          type="button"
          className="btn mt-1"
          onClick={() =>
            add({
              zone: first.id,
              at_mm: [Math.round(length / 2), Math.round(width / 2), Math.max(0, height - 50)],
              lumens: 800,
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
          onValue={(daylight_lux) => change((now) => ({ ...now, daylight_lux }))}
        />
      </div>
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
