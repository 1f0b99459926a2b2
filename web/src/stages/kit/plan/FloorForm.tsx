import { useState } from "react";
import { floorOf } from "../../../api/space";
import type { Material } from "../../../api/types";
import { useRoom } from "../../../shell/context";
import { ProblemNote } from "../../../ui/Problem";
import { usePlanEdits } from "./edits";
import { Cupboards, Lamps, Openings, Seats, Spots } from "./FloorParts";
import { HousePlan } from "./HousePlan";
import { LengthField } from "./LengthField";

const MATERIALS: readonly (readonly [Material, string])[] = [
  ["plaster", "white plaster"],
  ["wood", "wood"],
  ["dark-cloth", "dark cloth"],
  ["brick", "brick"],
  ["concrete", "concrete"],
  ["glass", "glass"],
];

const WALLS = ["Left wall", "Right wall", "Upper wall", "Lower wall"] as const;

/** The room itself: its sides, what they are made of, where people sit. */
export function FloorForm({ feet }: { feet: boolean }) {
  const { house, room } = useRoom();
  const { edit, changeFloor: change } = usePlanEdits();
  const floor = floorOf(house, room);
  if (!floor) return null;
  const zones = house.rooms.find((one) => one.id === room)?.lighting?.zones ?? [];
  return (
    <details className="mt-4 border-t border-rule pt-2">
      <summary>The room: sides, walls, seats, doors, cupboards, lamps, its place in the house</summary>
      <RoomSize
        feet={feet}
        size={floor.size_mm}
        verb="Keep"
        onSize={(size_mm) => change((now) => ({ ...now, size_mm }))}
      />
      <div className="mt-2 flex flex-wrap gap-3">
        {WALLS.map((label, at) => (
          <MaterialField
            key={label}
            label={label}
            value={floor.walls[at] ?? "plaster"}
            onValue={(value) =>
              change((now) => ({ ...now, walls: now.walls.map((own, one) => (one === at ? value : own)) }))
            }
          />
        ))}
        <MaterialField
          label="Floor"
          value={floor.floor}
          onValue={(value) => change((now) => ({ ...now, floor: value }))}
        />
        <MaterialField
          label="Ceiling"
          value={floor.ceiling}
          onValue={(value) => change((now) => ({ ...now, ceiling: value }))}
        />
      </div>
      <Seats floor={floor} feet={feet} change={change} />
      <Openings floor={floor} feet={feet} change={change} />
      <Cupboards floor={floor} feet={feet} change={change} />
      <Spots floor={floor} feet={feet} change={change} />
      <Lamps floor={floor} zones={zones} feet={feet} change={change} />
      <HousePlan floor={floor} feet={feet} change={change} />
      {edit.error && <ProblemNote text={edit.error.message} />}
    </details>
  );
}

/** The three sides of a room. */
export function RoomSize({
  size,
  feet,
  verb,
  onSize,
}: {
  size: readonly number[];
  feet: boolean;
  verb: string;
  onSize: (size: [number, number, number]) => void;
}) {
  const [own, setOwn] = useState(size);
  const [length = 0, width = 0, height = 0] = own;
  const set = (axis: number, mm: number) => setOwn(own.map((value, one) => (one === axis ? mm : value)));
  return (
    <div className="mt-2 flex flex-wrap items-end gap-3">
      {(["Length", "Width", "Height"] as const).map((label, axis) => (
        <LengthField key={label} label={label} feet={feet} mm={own[axis] ?? 0} onMm={(mm) => set(axis, mm)} />
      ))}
      <button type="button" className="btn btn-main" onClick={() => onSize([length, width, height])}>
        {verb}
      </button>
    </div>
  );
}

function MaterialField({
  label,
  value,
  onValue,
}: {
  label: string;
  value: Material;
  onValue: (value: Material) => void;
}) {
  return (
    <label className="block">
      <span className="label">{label}</span>
      <select
        className="field w-36"
        value={value}
        onChange={(event) => onValue(event.target.value as Material)}
      >
        {MATERIALS.map(([one, name]) => (
          <option key={one} value={one}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}
