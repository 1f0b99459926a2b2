import type { Provided } from "../../api/types";
import { Pick } from "../../ui/Inline";
import { OnOff, PickSwitch, Time, useChoices } from "./pickers";

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** What belongs to a condition of a cue. */
export function ProvidedParts({ value, onChange }: { value: Provided; onChange: (next: Provided) => void }) {
  const { withOff } = useChoices();
  switch (value.is) {
    case "between":
      return (
        <>
          <Time
            label="From"
            value={value.from_min}
            onChange={(from_min) => onChange({ ...value, from_min })}
          />
          <span>and</span>
          <Time label="To" value={value.to_min} onChange={(to_min) => onChange({ ...value, to_min })} />
        </>
      );
    case "days":
      return (
        <span className="flex flex-wrap gap-x-2">
          {DAYS.map((name, index) => (
            <label key={name} className="flex min-h-8 items-center gap-1">
              <input
                type="checkbox"
                checked={value.days.includes(index + 1)}
                onChange={(event) =>
                  onChange({
                    ...value,
                    days: event.target.checked
                      ? [...value.days, index + 1].sort((a, b) => a - b)
                      : value.days.filter((day) => day !== index + 1),
                  })
                }
              />
              {name}
            </label>
          ))}
        </span>
      );
    case "dark":
      return (
        <OnOff
          value={value.dark}
          words={["dark outside", "light outside"]}
          onChange={(dark) => onChange({ ...value, dark })}
        />
      );
    case "switch":
      return (
        <>
          <PickSwitch value={value.switch} onChange={(id) => onChange({ ...value, switch: id })} />
          <OnOff value={value.on} onChange={(on) => onChange({ ...value, on })} />
        </>
      );
    case "in":
    case "not-in":
      return (
        <Pick
          label="Activity"
          value={value.activity ?? ""}
          options={withOff}
          onChange={(id) => onChange({ ...value, activity: id || null })}
        />
      );
  }
}
