import { useState } from "react";
import { profileOf, useRoom } from "../../shell/context";
import { Pick, type Option } from "../../ui/Inline";
import { useLighting } from "./api";
import { clock, minuteOf, ofKind } from "./lighting";

/** What a line of a cue sheet can be made of: the room's activities, devices and their keys, mode switches. */
export function useChoices() {
  const { house, room } = useRoom();
  const { lighting } = useLighting();
  const activities: Option[] = house.activities
    .filter((known) => known.room === room)
    .map((a) => [a.id, a.name]);
  return {
    activities,
    withOff: [["", "off: no activity"], ...activities] as Option[],
    switches: lighting.switches.map((known): Option => [known.id, known.name]),
    devices: (kinds?: string[]): Option[] =>
      (kinds ? ofKind(house, room, kinds) : house.devices.filter((device) => device.room === room)).map(
        (device) => [device.id, device.name],
      ),
    keys: (id: string): Option[] => {
      const device = house.devices.find((known) => known.id === id);
      return device ? profileOf(house, device).functions.map((known) => [known.id, known.name]) : [];
    },
  };
}

/** A time of the day: 20:30. */
export function Time({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number;
  onChange: (minute: number) => void;
}) {
  const [text, setText] = useState(clock(value));
  const good = minuteOf(text) !== undefined;
  return (
    <input
      className="field w-20 text-right font-mono"
      aria-label={label}
      aria-invalid={!good}
      title={good ? undefined : "A time such as 20:30"}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        const minute = minuteOf(event.target.value);
        if (minute !== undefined) onChange(minute);
      }}
    />
  );
}

/** A device of the room, of these kinds. */
export function PickDevice({
  label,
  kinds,
  value,
  onChange,
}: {
  label: string;
  kinds: string[] | undefined;
  value: string;
  onChange: (device: string) => void;
}) {
  return <Pick label={label} value={value} options={useChoices().devices(kinds)} onChange={onChange} />;
}

/** A device and one of its keys. */
export function PickKey({
  labels: [device, key],
  kinds,
  value,
  onChange,
}: {
  labels: [string, string];
  kinds: string[] | undefined;
  value: { device: string; function: string };
  onChange: (key: { device: string; function: string }) => void;
}) {
  const { keys } = useChoices();
  return (
    <>
      <PickDevice
        label={device}
        kinds={kinds}
        value={value.device}
        onChange={(id) => onChange({ device: id, function: keys(id)[0]?.[0] ?? "" })}
      />
      <Pick
        label={key}
        value={value.function}
        options={keys(value.device)}
        onChange={(id) => onChange({ device: value.device, function: id })}
      />
    </>
  );
}

/** A mode switch of the room. */
export function PickSwitch({ value, onChange }: { value: string; onChange: (id: string) => void }) {
  return <Pick label="Mode switch" value={value} options={useChoices().switches} onChange={onChange} />;
}

/** One of two states. */
export function OnOff({
  value,
  words = ["on", "off"],
  onChange,
}: {
  value: boolean;
  words?: [string, string];
  onChange: (on: boolean) => void;
}) {
  return (
    <Pick
      label="State"
      value={value ? "yes" : "no"}
      options={[
        ["yes", words[0]],
        ["no", words[1]],
      ]}
      onChange={(to) => onChange(to === "yes")}
    />
  );
}
