import { take } from "../../../api/entities";
import { useEdit } from "../../../api/queries";
import type { Placed } from "../../../api/types";
import { changed } from "./geometry";
import { deviceName, useRoom } from "../../../shell/context";
import { LengthField } from "./LengthField";

const AXES = ["From the left", "From the top", "Height of its middle"] as const;
const SIZES = ["Wide", "Deep", "High"] as const;

/** Where the chosen thing stands, in figures. */
export function PlacedForm({
  own,
  feet,
  onPut,
}: {
  own: Placed;
  feet: boolean;
  onPut: (own: Placed) => void;
}) {
  const { house } = useRoom();
  const edit = useEdit(house.house.id);
  const name = deviceName(house, own.device);
  const at = (axis: number, mm: number) => onPut({ ...own, at_mm: changed(own.at_mm, axis, mm) });
  const size = (axis: number, mm: number) =>
    onPut({ ...own, size_mm: changed(own.size_mm, axis, Math.max(1, mm)) });
  return (
    <section aria-label={`Where ${name} stands`} className="mt-4 border-t border-rule pt-2">
      <div className="flex items-baseline justify-between gap-3">
        <h3 className="text-[15px]">{name}</h3>
        <button type="button" className="link" onClick={() => edit.mutate([take(house, "placed", own.id)])}>
          Take it off the plan
        </button>
      </div>
      <div className="mt-1 flex flex-wrap gap-3">
        {AXES.map((label, axis) => (
          <LengthField
            key={label}
            label={label}
            feet={feet}
            mm={own.at_mm[axis] ?? 0}
            onMm={(mm) => at(axis, mm)}
          />
        ))}
        {SIZES.map((label, axis) => (
          <LengthField
            key={label}
            label={label}
            feet={feet}
            mm={own.size_mm[axis] ?? 0}
            onMm={(mm) => size(axis, mm)}
          />
        ))}
        <Angle
          label="Looks to, in degrees"
          value={own.azimuth_deg}
          least={-180}
          most={180}
          onValue={(azimuth_deg) => onPut({ ...own, azimuth_deg })}
        />
        <Angle
          label="Up, in degrees"
          value={own.elevation_deg}
          least={-90}
          most={90}
          onValue={(elevation_deg) => onPut({ ...own, elevation_deg })}
        />
      </div>
      <p className="mt-1 text-[13px] text-muted">
        0° looks to the right of the plan, 90° down it. On the plan arrows move it by 5 cm, with Shift by 50
        cm.
      </p>
    </section>
  );
}

function Angle({
  label,
  value,
  least,
  most,
  onValue,
}: {
  label: string;
  value: number;
  least: number;
  most: number;
  onValue: (value: number) => void;
}) {
  return (
    <label className="block">
      <span className="label">{label}</span>
      <input
        type="number"
        className="field w-24"
        min={least}
        max={most}
        step={5}
        value={value}
        onChange={(event) => {
          const next = Number(event.target.value);
          if (event.target.value !== "" && next >= least && next <= most) onValue(Math.round(next));
        }}
      />
    </label>
  );
}
