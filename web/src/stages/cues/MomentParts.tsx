import type { Moment } from "../../api/types";
import { Figure, Pick } from "../../ui/Inline";
import { SOURCES } from "./lighting";
import { OnOff, PickDevice, PickKey, PickSwitch, Time, useChoices } from "./pickers";

/** What belongs to the moment of a cue. */
export function MomentParts({ value, onChange }: { value: Moment; onChange: (next: Moment) => void }) {
  const { activities, devices } = useChoices();
  switch (value.at) {
    case "starts":
    case "ends":
      return (
        <Pick
          label="Activity"
          value={value.activity ?? ""}
          options={[["", "any activity"], ...activities]}
          onChange={(id) => onChange({ ...value, activity: id || null })}
        />
      );
    case "says":
      return (
        <>
          <PickDevice
            label="Source"
            kinds={SOURCES}
            value={value.device}
            onChange={(device) => onChange({ ...value, device })}
          />
          <Pick
            label="What it says"
            value={value.transport}
            options={[
              ["playing", "plays"],
              ["paused", "pauses"],
              ["stopped", "stops"],
            ]}
            onChange={(to) => onChange({ ...value, transport: to as typeof value.transport })}
          />
        </>
      );
    case "credits":
      return (
        <PickDevice
          label="Source"
          kinds={SOURCES}
          value={value.device}
          onChange={(device) => onChange({ ...value, device })}
        />
      );
    case "sent":
      return (
        <PickKey
          labels={["Source", "Key"]}
          kinds={SOURCES}
          value={value}
          onChange={(key) => onChange({ ...value, ...key })}
        />
      );
    case "clock":
      return (
        <>
          <Time
            label="Time of the day"
            value={value.minute}
            onChange={(minute) => onChange({ ...value, minute })}
          />
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={value.until != null}
              onChange={(event) =>
                onChange({ ...value, until: event.target.checked ? (value.minute + 120) % 1440 : null })
              }
            />
            until
          </label>
          {value.until != null && (
            <>
              <Time
                label="Second time of the day"
                value={value.until}
                onChange={(until) => onChange({ ...value, until })}
              />
              <span className="text-muted">, then as before</span>
            </>
          )}
        </>
      );
    case "sun":
      return (
        <>
          <OnOff
            value={value.rises}
            words={["sunrise", "sunset"]}
            onChange={(rises) => onChange({ ...value, rises })}
          />
          <Figure
            label="Offset"
            unit="min later"
            value={value.offset_min}
            onChange={(offset_min) => onChange({ ...value, offset_min })}
          />
        </>
      );
    case "sensor":
      return (
        <>
          <Pick
            label="Sensor"
            value={value.device}
            options={devices(["sensor"])}
            onChange={(device) => onChange({ ...value, device })}
          />
          <OnOff
            value={value.tripped}
            words={["trips", "is at rest"]}
            onChange={(tripped) => onChange({ ...value, tripped })}
          />
        </>
      );
    case "press":
      return <PressParts value={value} onChange={onChange} />;
    case "switched":
      return (
        <>
          <PickSwitch value={value.switch} onChange={(id) => onChange({ ...value, switch: id })} />
          <OnOff
            value={value.on}
            words={["goes on", "goes off"]}
            onChange={(on) => onChange({ ...value, on })}
          />
        </>
      );
    case "room-off":
      return null;
  }
}

/** Which key of which keypad, or the wall switch of which dimmer, and how it is pressed. */
function PressParts({
  value,
  onChange,
}: {
  value: Extract<Moment, { at: "press" }>;
  onChange: (next: Moment) => void;
}) {
  return (
    <>
      <PickKey
        labels={["Keypad or dimmer", "Key"]}
        kinds={["keypad", "light"]}
        value={value}
        onChange={(key) => onChange({ ...value, ...key })}
      />
      <Pick
        label="Gesture"
        value={value.gesture}
        options={[
          ["tap", "tapped"],
          ["double-tap", "tapped twice"],
          ["hold", "held"],
          ["release", "let go after a hold"],
        ]}
        onChange={(to) => onChange({ ...value, gesture: to as typeof value.gesture })}
      />
    </>
  );
}
