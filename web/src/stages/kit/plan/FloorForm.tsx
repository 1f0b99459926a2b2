import { useState } from "react";
import { putOver } from "../../../api/entities";
import { floorOf } from "../../../api/space";
import { useEdit } from "../../../api/queries";
import type { FloorPlan, Material, Seat } from "../../../api/types";
import { useRoom } from "../../../shell/context";
import { ProblemNote } from "../../../ui/Problem";
import { Cupboards, Lamps, Openings, Spots } from "./FloorParts";
import { HousePlan } from "./HousePlan";
import { changed } from "./geometry";
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
  const edit = useEdit(house.house.id);
  const floor = floorOf(house, room);
  if (!floor) return null;
  const zones = house.rooms.find((one) => one.id === room)?.lighting?.zones ?? [];
  const put = (next: FloorPlan) =>
    edit.mutate([putOver(house, { entity: "floor", value: { ...next, room } })]);
  const seat = (at: number, next: Seat | undefined) =>
    put({ ...floor, seats: floor.seats.flatMap((own, one) => (one === at ? (next ? [next] : []) : [own])) });
  const addSeat = () => {
    const row = Math.max(1, ...floor.seats.map((own) => own.row));
    const many = floor.seats.filter((own) => own.row === row).length;
    put({
      ...floor,
      seats: [
        ...floor.seats,
        {
          name: `row ${row}, seat ${many + 1}`,
          row,
          eye_mm: [Math.round(floor.size_mm[0] * 0.6), Math.round(floor.size_mm[1] / 2), 1150],
        },
      ],
    });
  };
  return (
    <details className="mt-4 border-t border-rule pt-2">
      <summary>The room: sides, walls, seats, doors, cupboards, lamps, its place in the house</summary>
      <RoomSize
        feet={feet}
        size={floor.size_mm}
        verb="Keep"
        onSize={(size_mm) => put({ ...floor, size_mm })}
      />
      <div className="mt-2 flex flex-wrap gap-3">
        {WALLS.map((label, at) => (
          <MaterialField
            key={label}
            label={label}
            value={floor.walls[at] ?? "plaster"}
            onValue={(value) =>
              put({ ...floor, walls: floor.walls.map((own, one) => (one === at ? value : own)) })
            }
          />
        ))}
        <MaterialField
          label="Floor"
          value={floor.floor}
          onValue={(value) => put({ ...floor, floor: value })}
        />
        <MaterialField
          label="Ceiling"
          value={floor.ceiling}
          onValue={(value) => put({ ...floor, ceiling: value })}
        />
      </div>
      <h4 className="mt-3 text-[14px]">Seats</h4>
      <ul>
        {floor.seats.map((own, at) => (
          <li key={at} className="flex flex-wrap items-end gap-3 border-b border-rule py-1">
            <label className="block">
              <span className="label">Name</span>
              <input
                className="field w-40"
                defaultValue={own.name}
                maxLength={80}
                onBlur={(event) => {
                  const name = event.target.value.trim();
                  if (name && name !== own.name) seat(at, { ...own, name });
                }}
              />
            </label>
            {(["From the left", "From the top", "Eye above the floor"] as const).map((label, axis) => (
              <LengthField
                key={label}
                label={label}
                feet={feet}
                className="w-24"
                mm={own.eye_mm[axis] ?? 0}
                onMm={(mm) => seat(at, { ...own, eye_mm: changed(own.eye_mm, axis, mm) })}
              />
            ))}
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
                  if (row >= 1 && row <= 40) seat(at, { ...own, row });
                }}
              />
            </label>
            <button
              type="button"
              className="link"
              aria-label={`Remove ${own.name}`}
              onClick={() => seat(at, undefined)}
            >
              Remove
            </button>
          </li>
        ))}
      </ul>
      <button type="button" className="btn mt-1" onClick={addSeat}>
        Add a seat
      </button>
      <Openings floor={floor} feet={feet} onPut={put} />
      <Cupboards floor={floor} feet={feet} onPut={put} />
      <Spots floor={floor} feet={feet} onPut={put} />
      <Lamps floor={floor} zones={zones} feet={feet} onPut={put} />
      <HousePlan floor={floor} feet={feet} onPut={put} />
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
