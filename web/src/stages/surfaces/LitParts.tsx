import type { KeyLit } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Figure, Pick } from "../../ui/Inline";
import { choices } from "./surface";

/** When a key is lit, part by part. */
export function LitParts({ lit, onChange: change }: { lit: KeyLit; onChange: (next: KeyLit) => void }) {
  const { house, room } = useRoom();
  const known = choices(house, room);
  switch (lit.when) {
    case "activity":
      return (
        <Pick
          label="Lit in activity"
          value={lit.activity}
          options={known.activities}
          onChange={(activity) => change({ ...lit, activity })}
        />
      );
    case "on":
      return (
        <Pick
          label="Lit by device"
          value={lit.device}
          options={known.devices()}
          onChange={(device) => change({ ...lit, device })}
        />
      );
    case "input":
      return (
        <>
          <Pick
            label="Lit by device"
            value={lit.device}
            options={known.devices((profile) => profile.inputs.length > 0)}
            onChange={(device) => change({ ...lit, device, input: known.inputs(device)[0]?.[0] ?? "" })}
          />
          <Pick
            label="Input"
            value={lit.input}
            options={known.inputs(lit.device)}
            onChange={(input) => change({ ...lit, input })}
          />
        </>
      );
    case "app":
      return (
        <>
          <Pick
            label="Lit by device"
            value={lit.device}
            options={known.devices((profile) => (profile.apps ?? []).length > 0)}
            onChange={(device) => change({ ...lit, device, name: known.apps(device)[0]?.[0] ?? "" })}
          />
          <Pick
            label="Lit by app"
            value={lit.name}
            options={known.apps(lit.device)}
            onChange={(name) => change({ ...lit, name })}
          />
        </>
      );
    case "mode":
      return (
        <Pick
          label="Setting"
          value={`${lit.mode}\n${lit.value}`}
          options={known.modes(lit.device)}
          onChange={(value) =>
            change({ ...lit, mode: value.split("\n")[0] ?? "", value: value.split("\n")[1] ?? "" })
          }
        />
      );
    case "switch":
      return (
        <Pick
          label="Lit by switch"
          value={lit.switch}
          options={known.switches}
          onChange={(id) => change({ ...lit, switch: id })}
        />
      );
    case "look":
      return (
        <Pick
          label="Lit by look"
          value={lit.look}
          options={known.looks}
          onChange={(look) => change({ ...lit, look })}
        />
      );
    case "level":
      return (
        <>
          <Pick
            label="Zone"
            value={lit.zone}
            options={known.zones}
            onChange={(zone) => change({ ...lit, zone })}
          />
          <Figure
            label="Above"
            unit="% and more"
            value={lit.above_percent}
            onChange={(above_percent) => change({ ...lit, above_percent })}
          />
        </>
      );
    default:
      return null;
  }
}
