import type { Also } from "../../api/types";
import { Figure, Pick } from "../../ui/Inline";
import { LoudnessParts } from "../../ui/Loudness";
import { ChimeParts } from "./ChimeParts";
import { SOURCES } from "./lighting";
import { OnOff, PickDevice, PickKey, PickSwitch, useChoices } from "./pickers";

/** What belongs to something else that a cue does. */
export function AlsoParts({ value, onChange }: { value: Also; onChange: (next: Also) => void }) {
  const { activities, withOff, devices } = useChoices();
  switch (value.also) {
    case "macro":
      return (
        <Pick
          label="Activity"
          value={value.to.is === "in" ? value.to.activity : ""}
          options={withOff}
          onChange={(id) => onChange({ ...value, to: id ? { is: "in", activity: id } : { is: "off" } })}
        />
      );
    case "command":
      return (
        <PickKey
          labels={["Device", "Command"]}
          kinds={undefined}
          value={value}
          onChange={(key) => onChange({ ...value, ...key })}
        />
      );
    case "volume":
      return (
        <>
          <Pick
            label="Device"
            value={value.device}
            options={devices(["receiver", "sound-bar", "display"])}
            onChange={(device) => onChange({ ...value, device })}
          />
          <LoudnessParts
            steps={value.steps}
            unit={value.unit}
            onChange={(loud) => onChange({ ...value, ...loud })}
          />
        </>
      );
    case "chime":
      return <ChimeParts value={value} onChange={onChange} />;
    case "say":
    case "message":
      return (
        <>
          <Pick
            label="Device"
            value={value.device}
            options={devices(
              value.also === "say" ? ["speakers", "sound-bar", "receiver"] : ["display", "projector"],
            )}
            onChange={(device) => onChange({ ...value, device })}
          />
          <input
            className="field w-56"
            aria-label="Text"
            value={value.text}
            onChange={(event) => onChange({ ...value, text: event.target.value })}
          />
          {value.also === "say" && (
            <Figure
              label="Volume"
              unit="%"
              value={value.percent}
              onChange={(percent) => onChange({ ...value, percent })}
            />
          )}
        </>
      );
    case "set":
      return (
        <>
          <PickSwitch value={value.switch} onChange={(id) => onChange({ ...value, switch: id })} />
          <OnOff value={value.on} onChange={(on) => onChange({ ...value, on })} />
        </>
      );
    case "pause-and-off":
      return (
        <>
          <PickDevice
            label="Source"
            kinds={SOURCES}
            value={value.device}
            onChange={(device) => onChange({ ...value, device })}
          />
          <Figure
            label="Off after"
            unit="s later"
            value={value.after_s}
            onChange={(after_s) => onChange({ ...value, after_s })}
          />
        </>
      );
    case "step-aside":
      return (
        <>
          <PickDevice
            label="Source"
            kinds={SOURCES}
            value={value.device}
            onChange={(device) => onChange({ ...value, device })}
          />
          <Pick
            label="Where to"
            value={value.to ?? ""}
            options={[["", "a snack break"], ...activities]}
            onChange={(id) => onChange({ ...value, to: id || null })}
          />
          <Figure
            label="For"
            unit="min at most"
            value={value.minutes}
            onChange={(minutes) => onChange({ ...value, minutes })}
          />
        </>
      );
  }
}
