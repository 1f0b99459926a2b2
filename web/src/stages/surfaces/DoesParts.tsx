import type { Does, Surface } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Figure, Pick, type Option } from "../../ui/Inline";
import { LoudnessParts } from "../../ui/Loudness";
import { choices } from "./surface";

/** What a key does, part by part. */
export function DoesParts({
  surface,
  does,
  onChange: change,
}: {
  surface: Surface;
  does: Does;
  onChange: (next: Does) => void;
}) {
  const { house, room } = useRoom();
  const known = choices(house, room);
  const pages = (surface.pages ?? []).map((one) => [one.id, one.name] as const);
  const device = (value: string | null | undefined, next: (id: string) => void, none?: string) => (
    <Pick
      label="Device"
      value={value ?? ""}
      options={[
        ...(none ? [["", none] as const] : []),
        ...known.devices((profile) => profile.functions.length > 0),
      ]}
      onChange={next}
    />
  );
  switch (does.does) {
    case "activity":
      return (
        <Pick
          label="Activity"
          value={does.activity}
          options={known.activities}
          onChange={(activity) => change({ ...does, activity })}
        />
      );
    case "command":
      return (
        <>
          {device(does.device, (id) =>
            change({ ...does, device: id, function: known.functions(id)[0]?.[0] ?? "" }),
          )}
          <Pick
            label="Command"
            value={does.function}
            options={known.functions(does.device)}
            onChange={(id) => change({ ...does, function: id })}
          />
          <Figure
            label="Times"
            unit="times"
            value={does.times ?? 1}
            onChange={(times) => change({ ...does, times })}
          />
        </>
      );
    case "volume":
      return (
        <>
          {device(does.device, (id) => change({ ...does, device: id || null }), "what sounds")}
          <LoudnessParts
            steps={does.steps}
            unit={does.unit}
            onChange={(loud) => change({ ...does, ...loud })}
          />
        </>
      );
    case "jump":
      return (
        <>
          {device(does.device, (id) => change({ ...does, device: id || null }), "what plays")}
          <Figure
            label="Seconds"
            unit="s on"
            value={does.seconds}
            onChange={(seconds) => change({ ...does, seconds })}
          />
        </>
      );
    case "look":
      return (
        <Pick
          label="Look"
          value={does.look}
          options={known.looks}
          onChange={(look) => change({ ...does, look })}
        />
      );
    case "switch":
      return <SwitchParts does={does} switches={known.switches} change={change} />;
    case "page":
      return (
        <Pick
          label="To page"
          value={does.page}
          options={pages}
          onChange={(id) => change({ ...does, page: id })}
        />
      );
    case "app":
      return (
        <>
          {device(does.device, (id) => change({ ...does, device: id, name: known.apps(id)[0]?.[0] ?? "" }))}
          <Pick
            label="App or channel"
            value={does.name}
            options={known.apps(does.device)}
            onChange={(name) => change({ ...does, name })}
          />
        </>
      );
    case "favourite":
      return (
        <Pick
          label="Favourite"
          value={does.name}
          options={known.favourites}
          onChange={(name) => change({ ...does, name })}
        />
      );
    case "power":
      return device(does.device, (id) => change({ ...does, device: id }));
    default:
      return null;
  }
}

/** Which mode switch, and where to. */
function SwitchParts({
  does,
  switches,
  change,
}: {
  does: Extract<Does, { does: "switch" }>;
  switches: readonly Option[];
  change: (next: Does) => void;
}) {
  return (
    <>
      <Pick
        label="Mode switch"
        value={does.switch}
        options={switches}
        onChange={(id) => change({ ...does, switch: id })}
      />
      <Pick
        label="To"
        value={does.on == null ? "flip" : does.on ? "on" : "off"}
        options={[
          ["flip", "the other way"],
          ["on", "on"],
          ["off", "off"],
        ]}
        onChange={(to) => change({ ...does, on: to === "flip" ? null : to === "on" })}
      />
    </>
  );
}
