import { take } from "../../../api/entities";
import { useEdit } from "../../../api/queries";
import type { Placed } from "../../../api/types";
import { deviceName, useRoom } from "../../../shell/context";
import type { ChangePlaced } from "./edits";
import { ThreeLengths } from "./Lines";

/** Where the chosen thing stands, in figures. */
export function PlacedForm({ own, feet, change }: { own: Placed; feet: boolean; change: ChangePlaced }) {
  const { house } = useRoom();
  const edit = useEdit(house.house.id);
  const name = deviceName(house, own.device);
  const put = (next: (now: Placed) => Partial<Placed>) =>
    change(own.device, (now) => ({ ...now, ...next(now) }));
  return (
    <section aria-label={`Where ${name} stands`} className="mt-4 border-t border-rule pt-2">
      <div className="flex items-baseline justify-between gap-3">
        <h3 className="text-[15px]">{name}</h3>
        <button
          type="button"
          className="link"
          onClick={() => edit.mutate((now) => [take(now, "placed", own.id)])}
        >
          Take it off the plan
        </button>
      </div>
      <div className="mt-1 flex flex-wrap gap-3">
        <ThreeLengths
          labels={["From the left", "From the top", "Height of its middle"]}
          value={own.at_mm}
          feet={feet}
          className="w-28"
          onChange={(to) => put((now) => ({ at_mm: to(now.at_mm) }))}
        />
        <ThreeLengths
          labels={["Wide", "Deep", "High"]}
          value={own.size_mm}
          feet={feet}
          least={1}
          className="w-28"
          onChange={(to) => put((now) => ({ size_mm: to(now.size_mm) }))}
        />
        <Angle
          label="Looks to, in degrees"
          value={own.azimuth_deg}
          least={-180}
          most={180}
          onValue={(azimuth_deg) => put(() => ({ azimuth_deg }))}
        />
        <Angle
          label="Up, in degrees"
          value={own.elevation_deg}
          least={-90}
          most={90}
          onValue={(elevation_deg) => put(() => ({ elevation_deg }))}
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
