import { Plus, X } from "lucide-react";
import { useState } from "react";
import type { Also, Cue, Light, Moment, Provided } from "../../api/types";
import { profileOf, useRoom } from "../../shell/context";
import { Figure, Pick, type Option } from "../../ui/Inline";
import { useLighting } from "./api";
import {
  ALSOS,
  clock,
  firstAlso,
  firstMoment,
  firstProvided,
  minuteOf,
  MOMENTS,
  ofKind,
  PROVIDEDS,
  SOURCES,
} from "./lighting";

/** A time of the day: 20:30. */
function Time({
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

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** One line of the cue sheet, part by part. */
export function CueForm({ cue, onSave }: { cue: Cue; onSave: (cue: Cue) => void }) {
  const { house, room } = useRoom();
  const { lighting } = useLighting();
  const [own, setOwn] = useState(cue);
  const changed = JSON.stringify(own) !== JSON.stringify(cue);
  const activities: Option[] = house.activities
    .filter((known) => known.room === room)
    .map((a) => [a.id, a.name]);
  const withOff: Option[] = [["", "off: no activity"], ...activities];
  const switches: Option[] = lighting.switches.map((known) => [known.id, known.name]);
  const devices = (kinds?: string[]): Option[] =>
    (kinds ? ofKind(house, room, kinds) : house.devices.filter((device) => device.room === room)).map(
      (device) => [device.id, device.name],
    );
  const keys = (id: string): Option[] => {
    const device = house.devices.find((known) => known.id === id);
    return device ? profileOf(house, device).functions.map((known) => [known.id, known.name]) : [];
  };
  const pickDevice = (
    label: string,
    kinds: string[] | undefined,
    value: string,
    change: (device: string) => void,
  ) => <Pick label={label} value={value} options={devices(kinds)} onChange={change} />;
  const pickKey = (
    [device, key]: [string, string],
    kinds: string[] | undefined,
    value: { device: string; function: string },
    change: (key: { device: string; function: string }) => void,
  ) => (
    <>
      {pickDevice(device, kinds, value.device, (id) =>
        change({ device: id, function: keys(id)[0]?.[0] ?? "" }),
      )}
      <Pick
        label={key}
        value={value.function}
        options={keys(value.device)}
        onChange={(id) => change({ device: value.device, function: id })}
      />
    </>
  );
  const pickSwitch = (value: string, change: (id: string) => void) => (
    <Pick label="Mode switch" value={value} options={switches} onChange={change} />
  );
  const set = (change: Partial<Cue>) => setOwn({ ...own, ...change });
  const onOff = (value: boolean, change: (on: boolean) => void, words: [string, string] = ["on", "off"]) => (
    <Pick
      label="State"
      value={value ? "yes" : "no"}
      options={[
        ["yes", words[0]],
        ["no", words[1]],
      ]}
      onChange={(to) => change(to === "yes")}
    />
  );

  const moment = own.moment;
  const setMoment = (next: Moment) => set({ moment: next });
  const provided = own.provided ?? [];
  const setProvided = (at: number, next: Provided) =>
    set({ provided: provided.map((known, index) => (index === at ? next : known)) });
  const also = own.also ?? [];
  const setAlso = (at: number, next: Also) =>
    set({ also: also.map((known, index) => (index === at ? next : known)) });
  const light: Light = own.light ?? { does: "stays" };

  const momentParts = () => {
    switch (moment.at) {
      case "starts":
      case "ends":
        return (
          <Pick
            label="Activity"
            value={moment.activity ?? ""}
            options={[["", "any activity"], ...activities]}
            onChange={(id) => setMoment({ ...moment, activity: id || null })}
          />
        );
      case "says":
        return (
          <>
            {pickDevice("Source", SOURCES, moment.device, (device) => setMoment({ ...moment, device }))}
            <Pick
              label="What it says"
              value={moment.transport}
              options={[
                ["playing", "plays"],
                ["paused", "pauses"],
                ["stopped", "stops"],
              ]}
              onChange={(to) => setMoment({ ...moment, transport: to as typeof moment.transport })}
            />
          </>
        );
      case "credits":
        return pickDevice("Source", SOURCES, moment.device, (device) => setMoment({ ...moment, device }));
      case "sent":
        return <>{pickKey(["Source", "Key"], SOURCES, moment, (key) => setMoment({ ...moment, ...key }))}</>;
      case "clock":
        return (
          <Time
            label="Time of the day"
            value={moment.minute}
            onChange={(minute) => setMoment({ ...moment, minute })}
          />
        );
      case "sun":
        return (
          <>
            {onOff(moment.rises, (rises) => setMoment({ ...moment, rises }), ["sunrise", "sunset"])}
            <Figure
              label="Offset"
              unit="min later"
              value={moment.offset_min}
              onChange={(offset_min) => setMoment({ ...moment, offset_min })}
            />
          </>
        );
      case "sensor":
        return (
          <>
            <Pick
              label="Sensor"
              value={moment.device}
              options={devices(["sensor"])}
              onChange={(device) => setMoment({ ...moment, device })}
            />
            {onOff(moment.tripped, (tripped) => setMoment({ ...moment, tripped }), ["trips", "is at rest"])}
          </>
        );
      case "press":
        return (
          <>
            {pickKey(["Keypad", "Key"], ["keypad"], moment, (key) => setMoment({ ...moment, ...key }))}
            <Pick
              label="Gesture"
              value={moment.gesture}
              options={[
                ["tap", "tapped"],
                ["double-tap", "tapped twice"],
                ["hold", "held"],
                ["release", "let go after a hold"],
              ]}
              onChange={(to) => setMoment({ ...moment, gesture: to as typeof moment.gesture })}
            />
          </>
        );
      case "switched":
        return (
          <>
            {pickSwitch(moment.switch, (id) => setMoment({ ...moment, switch: id }))}
            {onOff(moment.on, (on) => setMoment({ ...moment, on }), ["goes on", "goes off"])}
          </>
        );
      case "room-off":
        return null;
    }
  };

  const providedParts = (one: Provided, at: number) => {
    switch (one.is) {
      case "between":
        return (
          <>
            <Time
              label="From"
              value={one.from_min}
              onChange={(from_min) => setProvided(at, { ...one, from_min })}
            />
            <span>and</span>
            <Time label="To" value={one.to_min} onChange={(to_min) => setProvided(at, { ...one, to_min })} />
          </>
        );
      case "days":
        return (
          <span className="flex flex-wrap gap-x-2">
            {DAYS.map((name, index) => (
              <label key={name} className="flex min-h-8 items-center gap-1">
                <input
                  type="checkbox"
                  checked={one.days.includes(index + 1)}
                  onChange={(event) =>
                    setProvided(at, {
                      ...one,
                      days: event.target.checked
                        ? [...one.days, index + 1].sort((a, b) => a - b)
                        : one.days.filter((day) => day !== index + 1),
                    })
                  }
                />
                {name}
              </label>
            ))}
          </span>
        );
      case "dark":
        return onOff(one.dark, (dark) => setProvided(at, { ...one, dark }), [
          "dark outside",
          "light outside",
        ]);
      case "switch":
        return (
          <>
            {pickSwitch(one.switch, (id) => setProvided(at, { ...one, switch: id }))}
            {onOff(one.on, (on) => setProvided(at, { ...one, on }))}
          </>
        );
      case "in":
      case "not-in":
        return (
          <Pick
            label="Activity"
            value={one.activity ?? ""}
            options={withOff}
            onChange={(id) => setProvided(at, { ...one, activity: id || null })}
          />
        );
    }
  };

  const alsoParts = (one: Also, at: number) => {
    switch (one.also) {
      case "macro":
        return (
          <Pick
            label="Activity"
            value={one.to.is === "in" ? one.to.activity : ""}
            options={withOff}
            onChange={(id) => setAlso(at, { ...one, to: id ? { is: "in", activity: id } : { is: "off" } })}
          />
        );
      case "command":
        return (
          <>{pickKey(["Device", "Command"], undefined, one, (key) => setAlso(at, { ...one, ...key }))}</>
        );
      case "volume":
        return (
          <>
            <Pick
              label="Device"
              value={one.device}
              options={devices(["receiver", "sound-bar", "display"])}
              onChange={(device) => setAlso(at, { ...one, device })}
            />
            <Figure
              label="Steps"
              unit="steps louder"
              value={one.steps}
              onChange={(steps) => setAlso(at, { ...one, steps })}
            />
          </>
        );
      case "say":
      case "message":
        return (
          <>
            <Pick
              label="Device"
              value={one.device}
              options={devices(
                one.also === "say" ? ["speakers", "sound-bar", "receiver"] : ["display", "projector"],
              )}
              onChange={(device) => setAlso(at, { ...one, device })}
            />
            <input
              className="field w-56"
              aria-label="Text"
              value={one.text}
              onChange={(event) => setAlso(at, { ...one, text: event.target.value })}
            />
            {one.also === "say" && (
              <Figure
                label="Volume"
                unit="%"
                value={one.percent}
                onChange={(percent) => setAlso(at, { ...one, percent })}
              />
            )}
          </>
        );
      case "set":
        return (
          <>
            {pickSwitch(one.switch, (id) => setAlso(at, { ...one, switch: id }))}
            {onOff(one.on, (on) => setAlso(at, { ...one, on }))}
          </>
        );
      case "pause-and-off":
        return (
          <>
            {pickDevice("Source", SOURCES, one.device, (device) => setAlso(at, { ...one, device }))}
            <Figure
              label="Off after"
              unit="s later"
              value={one.after_s}
              onChange={(after_s) => setAlso(at, { ...one, after_s })}
            />
          </>
        );
      case "step-aside":
        return (
          <>
            {pickDevice("Source", SOURCES, one.device, (device) => setAlso(at, { ...one, device }))}
            <Pick
              label="Where to"
              value={one.to ?? ""}
              options={[["", "a snack break"], ...activities]}
              onChange={(id) => setAlso(at, { ...one, to: id || null })}
            />
            <Figure
              label="For"
              unit="min at most"
              value={one.minutes}
              onChange={(minutes) => setAlso(at, { ...one, minutes })}
            />
          </>
        );
    }
  };

  const remove = (label: string, act: () => void) => (
    <button type="button" className="btn border-transparent px-1" aria-label={label} onClick={act}>
      <X aria-hidden size={14} />
    </button>
  );
  const row = "flex min-h-9 flex-wrap items-center gap-2";
  const name = "w-20 shrink-0 text-muted";
  return (
    <form
      aria-label="Cue"
      onSubmit={(event) => {
        event.preventDefault();
        onSave(own);
      }}
    >
      <div className={row}>
        <span className={name}>Moment</span>
        <Pick
          label="Kind of moment"
          value={moment.at}
          options={MOMENTS}
          onChange={(at) => setMoment(firstMoment(house, room, lighting, at as Moment["at"]))}
        />
        {momentParts()}
      </div>
      {provided.map((one, at) => (
        <div key={at} className={row}>
          <span className={name}>{at === 0 ? "Provided" : "and"}</span>
          <Pick
            label="Kind of condition"
            value={one.is}
            options={PROVIDEDS}
            onChange={(is) => setProvided(at, firstProvided(lighting, is as Provided["is"]))}
          />
          {providedParts(one, at)}
          {remove("Remove this condition", () =>
            set({ provided: provided.filter((_, index) => index !== at) }),
          )}
        </div>
      ))}
      <div className={row}>
        <span className={name}>Light</span>
        <Pick
          label="What the light does"
          value={light.does === "look" ? light.look : light.does}
          options={[
            ["stays", "stays as it is"],
            ["before", "as it was before"],
            ...lighting.looks.map((look): Option => [look.id, look.name]),
          ]}
          onChange={(id) =>
            set({
              light:
                id === "stays"
                  ? { does: "stays" }
                  : id === "before"
                    ? { does: "before", fade_ms: 2000 }
                    : { does: "look", look: id, fade_ms: null },
            })
          }
        />
        {light.does === "look" && (
          <Figure
            label="Fade"
            unit="s fade"
            whole={false}
            value={
              (light.fade_ms ?? lighting.looks.find((look) => look.id === light.look)?.fade_ms ?? 0) / 1000
            }
            onChange={(seconds) => set({ light: { ...light, fade_ms: Math.round(seconds * 1000) } })}
          />
        )}
        {light.does === "before" && (
          <Figure
            label="Fade"
            unit="s fade"
            whole={false}
            value={light.fade_ms / 1000}
            onChange={(seconds) => set({ light: { ...light, fade_ms: Math.round(seconds * 1000) } })}
          />
        )}
      </div>
      {also.map((one, at) => (
        <div key={at} className={row}>
          <span className={name}>Also</span>
          <Pick
            label="What else"
            value={one.also}
            options={ALSOS}
            onChange={(kind) => setAlso(at, firstAlso(house, room, lighting, kind as Also["also"]))}
          />
          {alsoParts(one, at)}
          {remove("Remove this", () => set({ also: also.filter((_, index) => index !== at) }))}
        </div>
      ))}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <button
          type="button"
          className="btn"
          onClick={() => set({ provided: [...provided, firstProvided(lighting, "dark")] })}
        >
          <Plus aria-hidden size={14} /> Provided
        </button>
        <button
          type="button"
          className="btn"
          onClick={() => set({ also: [...also, firstAlso(house, room, lighting, "macro")] })}
        >
          <Plus aria-hidden size={14} /> Also
        </button>
        <label className="flex min-h-8 items-center gap-1.5">
          <input
            type="checkbox"
            checked={own.off ?? false}
            onChange={(event) => set({ off: event.target.checked })}
          />
          Leave it out for now
        </label>
        <button type="submit" className="btn btn-main ml-auto" disabled={!changed}>
          Save cue
        </button>
      </div>
    </form>
  );
}
