import { useState } from "react";
import type { LiveNow, LiveView } from "../api/types";
import type { usePress } from "./api";

/** The light of the room under a finger, within limits; each lamp by itself, and what is liked stored in a look. */
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
  if (now.zones.length === 0) return null;
  const set = (zone: string | null, percent: number) =>
    dim.mutate({ zone, percent }, { onError: (error) => onTell(error.message) });
  return (
    <section aria-label="Light" className="mt-4 border-t border-rule pt-2.5">
      <div className="mb-1 flex justify-between gap-3 text-[15px]">
        <h2>Light</h2>
        <p className="truncate text-muted">{now.light}</p>
      </div>
      <Slider name="All the light" value={now.together_percent} may={may} onSet={(to) => set(null, to)} />
      <details className="mt-1">
        <summary className="flex min-h-11 items-center text-[15px] text-muted">Each lamp</summary>
        {now.zones.map((zone) => (
          <label key={zone.zone} className="flex min-h-11 items-center gap-3">
            <span className="w-24 truncate">{zone.name}</span>
            <Slider name={zone.name} value={zone.percent} may={may} onSet={(to) => set(zone.zone, to)} />
          </label>
        ))}
        {view.looks.length > 0 && <Store view={view} store={store} onTell={onTell} />}
      </details>
    </section>
  );
}

/** Dark at its left, bright at its right; sent when the finger is lifted. */
function Slider({
  name,
  value,
  may,
  onSet,
}: {
  name: string;
  value: number;
  may: NonNullable<LiveView["may"]>;
  onSet: (to: number) => void;
}) {
  const [held, setHeld] = useState<number>();
  const shown = held ?? Math.round(value);
  const set = () => {
    if (held !== undefined) onSet(held);
    setHeld(undefined);
  };
  return (
    <span className="flex min-w-0 flex-1 items-center gap-2">
      <span aria-hidden className="text-[13.5px] text-muted">
        dark
      </span>
      <input
        type="range"
        aria-label={name}
        aria-valuetext={`${shown} %`}
        className="h-11 min-w-0 flex-1 accent-(--accent)"
        min={may.least_percent}
        max={may.most_percent}
        value={shown}
        onChange={(event) => setHeld(Number(event.target.value))}
        onPointerUp={set}
        onKeyUp={set}
        onBlur={set}
      />
      <span aria-hidden className="text-[13.5px] text-muted">
        bright
      </span>
      <span className="w-12 text-right font-mono">{shown} %</span>
    </span>
  );
}

function Store({
  view,
  store,
  onTell,
}: {
  view: LiveView;
  store: ReturnType<typeof usePress>["store"];
  onTell: (text: string) => void;
}) {
  const [look, setLook] = useState(view.looks[0]?.look ?? "");
  return (
    <p className="mt-2 flex items-center gap-2">
      <select
        className="field min-h-11 min-w-0 flex-1"
        aria-label="Keep this light as"
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
            onSuccess: () => onTell("Kept. Whoever set up the room looks it over."),
            onError: (error) => onTell(error.message),
          })
        }
      >
        Keep it so
      </button>
    </p>
  );
}
