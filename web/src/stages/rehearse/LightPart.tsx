import { Moon, Sun } from "lucide-react";
import { useState } from "react";
import type { RehearsalView } from "../../api/types";
import { useRoom } from "../../shell/context";
import { clockTime } from "../../ui/time";
import { useCueSheet } from "../cues/api";
import { lightingOf } from "../cues/lighting";
import type { useRehearse } from "./api";

/** The light of the room: the time of the world, the zones, the mode switches, and the cues that fired last. */
export function LightPart({
  view,
  actions,
}: {
  view: RehearsalView;
  actions: ReturnType<typeof useRehearse>;
}) {
  const { house, room } = useRoom();
  const sheet = useCueSheet();
  const lighting = lightingOf(house.rooms.find((known) => known.id === room));
  const [typed, setTyped] = useState<string>();
  if (lighting.zones.length === 0 && lighting.cues.length === 0) return null;
  const { light } = view;
  const fired = light.fired.slice(-4).reverse();
  return (
    <section aria-label="Light" className="mt-3">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h3 className="text-[16px]">Light</h3>
        <label className="flex items-center gap-2 whitespace-nowrap">
          {light.dark ? <Moon aria-hidden size={15} /> : <Sun aria-hidden size={15} />}
          {light.dark ? "dark outside" : "light outside"}
          <input
            type="datetime-local"
            className="field font-mono"
            aria-label="Time of the world"
            value={typed ?? light.time}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={() => {
              if (typed) actions.time.mutate(typed);
              setTyped(undefined);
            }}
          />
        </label>
        {light.switches.map((known) => (
          <label key={known.switch} className="flex min-h-8 items-center gap-1.5">
            <input
              type="checkbox"
              checked={known.on}
              onChange={(event) => actions.flip.mutate({ switch: known.switch, on: event.target.checked })}
            />
            {lighting.switches.find((one) => one.id === known.switch)?.name}
          </label>
        ))}
      </div>
      <p className="mt-1 flex flex-wrap gap-x-6" data-testid="zones">
        {light.zones.map((zone) => (
          <span key={zone.zone} className="flex items-center gap-1.5">
            {lighting.zones.find((known) => known.id === zone.zone)?.name}
            <meter
              className="level w-24"
              min={0}
              max={100}
              value={zone.percent}
              aria-label="level in percent"
            />
            <strong className="w-12 text-right font-mono">{Math.round(zone.percent)} %</strong>
          </span>
        ))}
      </p>
      {fired.length > 0 && (
        <ul className="mt-1" aria-label="Cues that fired last">
          {fired.map((one, at) => (
            <li key={`${one.at_ms} ${at}`} className="text-muted">
              <span className="font-mono">{clockTime(one.at_ms)}</span>{" "}
              {sheet.data?.lines.find((line) => line.cue === one.cue)?.moment ?? "a cue"}
              {one.held ? <span className="text-caution"> did not fire: {one.held}</span> : <> fired</>}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
