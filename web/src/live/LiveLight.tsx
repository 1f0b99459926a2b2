import { useState } from "react";
import type { LiveNow, LiveView } from "../api/types";
import type { usePress } from "./api";

/** The zones of the room under a finger, within limits; what is liked is stored in a look. */
export function LiveLight({
  view,
  now,
  may,
  dim,
  store,
  onTell,
}: {
  view: LiveView;
  now: LiveNow;
  may: NonNullable<LiveView["may"]>;
  dim: ReturnType<typeof usePress>["dim"];
  store: ReturnType<typeof usePress>["store"];
  onTell: (text: string) => void;
}) {
  const [held, setHeld] = useState<{ zone: string; percent: number }>();
  const [look, setLook] = useState(view.looks[0]?.look ?? "");
  if (now.zones.length === 0) return null;
  return (
    <section aria-label="Light" className="mt-5 border-t border-rule pt-2">
      <h2 className="text-[15px] text-muted">Light</h2>
      {now.zones.map((zone) => {
        const percent = held?.zone === zone.zone ? held.percent : Math.round(zone.percent);
        const set = () => {
          if (held) dim.mutate(held, { onError: (error) => onTell(error.message) });
          setHeld(undefined);
        };
        return (
          <label key={zone.zone} className="flex min-h-11 items-center gap-3">
            <span className="w-24 truncate">{zone.name}</span>
            <input
              type="range"
              className="h-11 min-w-0 flex-1 accent-(--accent)"
              min={may.least_percent}
              max={may.most_percent}
              value={percent}
              onChange={(event) => setHeld({ zone: zone.zone, percent: Number(event.target.value) })}
              onPointerUp={set}
              onKeyUp={set}
              onBlur={set}
            />
            <span className="w-12 text-right font-mono">{percent} %</span>
          </label>
        );
      })}
      {view.looks.length > 0 && (
        <p className="mt-2 flex items-center gap-2">
          <select
            className="field min-h-11 flex-1"
            aria-label="Look to store"
            value={look}
            onChange={(event) => setLook(event.target.value)}
          >
            {view.looks.map((known) => (
              <option key={known.look} value={known.look}>
                {known.name}
              </option>
            ))}
          </select>
          <button
            type="button"
            className="btn min-h-11"
            onClick={() =>
              store.mutate(look, {
                onSuccess: () => onTell("Stored. Whoever set up the room looks it over."),
                onError: (error) => onTell(error.message),
              })
            }
          >
            Store it so
          </button>
        </p>
      )}
    </section>
  );
}
