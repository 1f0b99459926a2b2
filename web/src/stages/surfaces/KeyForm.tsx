import { Copy, Hand, ImagePlus, Plus, Trash2, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useRehearsal } from "../../api/live";
import type { Binding, Does, KeyLit, Surface, SurfaceKey, SurfacePage } from "../../api/types";
import { useRoom } from "../../shell/context";
import { FileButton } from "../../ui/FileButton";
import { Figure, Pick } from "../../ui/Inline";
import { ProblemNote } from "../../ui/Problem";
import type { SurfaceActions } from "./api";
import {
  choices,
  covers,
  DOES,
  firstDoes,
  firstLit,
  freeCell,
  GESTURES,
  HELDS,
  LITS,
  without,
} from "./surface";

/** The largest picture of a key, in bytes. */
const PICTURE_MAX = 60_000;

/** One key: what is written on it, what it does, when it is lit. */
export function KeyForm({
  surface,
  page,
  own: saved,
  actions,
  onClose,
  onOpen,
}: {
  surface: Surface;
  page: SurfacePage;
  own: SurfaceKey;
  actions: SurfaceActions;
  onClose: () => void;
  onOpen: (key: string) => void;
}) {
  const { house, room } = useRoom();
  const { savePage } = actions;
  const [own, setOwn] = useState(saved);
  const [problem, setProblem] = useState<string>();
  const changed = JSON.stringify(own) !== JSON.stringify(saved);
  const set = (change: Partial<SurfaceKey>) => setOwn({ ...own, ...change });
  const known = choices(house, room);
  const bindings = own.bindings ?? [];
  const setBinding = (at: number, next: Binding) =>
    set({ bindings: bindings.map((one, index) => (index === at ? next : one)) });
  const pages = (surface.pages ?? []).map((one) => [one.id, one.name] as const);

  const save = () => {
    const next = { ...own, by_hand: true };
    const other = page.keys.find((key) => key.id !== own.id && covers(key, next));
    if (other) {
      setProblem(`It would lie on “${other.label}”. Make it smaller, or move that key first.`);
      return;
    }
    setProblem(undefined);
    savePage(
      surface,
      { ...page, keys: page.keys.map((key) => (key.id === own.id ? next : key)) },
      `“${own.label}” saved.`,
    );
  };
  const duplicate = () => {
    const cell = freeCell(surface, page.keys);
    if (!cell) {
      setProblem("There is no free cell on this page. Make the grid larger, or take a key away.");
      return;
    }
    const twin = {
      ...saved,
      id: crypto.randomUUID(),
      role: null,
      column: cell[0],
      row: cell[1],
      wide: 1,
      tall: 1,
      by_hand: true,
    };
    savePage(
      surface,
      { ...page, keys: [...page.keys, twin] },
      `“${saved.label}” duplicated: change one thing in it.`,
    );
    onOpen(twin.id);
  };
  const picture = (file: File) => {
    if (file.size > PICTURE_MAX || !["image/png", "image/jpeg", "image/webp"].includes(file.type)) {
      setProblem("A picture is a PNG, JPEG or WebP file of up to 60 kB. Make it smaller.");
      return;
    }
    const reader = new FileReader();
    reader.onload = () => set({ picture: String(reader.result) });
    reader.readAsDataURL(file);
  };

  const doesParts = (does: Does, change: (next: Does) => void) => {
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
            <Figure
              label="Steps"
              unit="steps louder"
              value={does.steps}
              onChange={(steps) => change({ ...does, steps })}
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
        return (
          <>
            <Pick
              label="Mode switch"
              value={does.switch}
              options={known.switches}
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
  };
  const litParts = (lit: KeyLit) => {
    const change = (next: KeyLit) => set({ lit: next });
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
  };
  const row = "flex min-h-10 flex-wrap items-center gap-x-2 gap-y-1.5 border-b border-rule py-1";
  const name = "w-20 shrink-0 text-muted";
  return (
    <form
      aria-label="Key"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <div className={row}>
        <span className={name}>Label</span>
        <input
          className="field w-48"
          aria-label="Label"
          value={own.label}
          onChange={(event) => set({ label: event.target.value })}
        />
        <Figure
          label="Columns wide"
          unit="wide"
          value={own.wide ?? 1}
          onChange={(wide) => set({ wide: Math.max(1, wide) })}
        />
        <Figure
          label="Rows high"
          unit="high"
          value={own.tall ?? 1}
          onChange={(tall) => set({ tall: Math.max(1, tall) })}
        />
        <button
          type="button"
          className="btn ml-auto border-transparent px-2"
          aria-label="Close the key"
          onClick={onClose}
        >
          <X aria-hidden size={16} />
        </button>
      </div>
      {bindings.map((one, at) => (
        <div key={at} className={row}>
          <span className={name}>{at === 0 ? "When it is" : "and when"}</span>
          <Pick
            label="Gesture"
            value={one.gesture ?? "tap"}
            options={GESTURES}
            onChange={(gesture) =>
              setBinding(at, { ...one, gesture: gesture as NonNullable<Binding["gesture"]> })
            }
          />
          <Pick
            label="In activity"
            value={one.in_activity ?? ""}
            options={[
              ["", "in every activity"],
              ...known.activities.map(([id, text]) => [id, `in ${text}`] as const),
            ]}
            onChange={(id) => setBinding(at, { ...one, in_activity: id || null })}
          />
          <Pick
            label="It does"
            value={one.does.does}
            options={DOES}
            onChange={(kind) =>
              setBinding(at, {
                ...one,
                held: "once",
                does: firstDoes(house, room, surface, kind as Does["does"]),
              })
            }
          />
          {doesParts(one.does, (does) => setBinding(at, { ...one, does }))}
          {(one.gesture ?? "tap") === "tap" && ["command", "volume"].includes(one.does.does) && (
            <Pick
              label="While held"
              value={one.held ?? "once"}
              options={HELDS}
              onChange={(held) => setBinding(at, { ...one, held: held as NonNullable<Binding["held"]> })}
            />
          )}
          <button
            type="button"
            className="btn border-transparent px-1"
            aria-label="Remove this meaning"
            onClick={() => set({ bindings: bindings.filter((_, index) => index !== at) })}
          >
            <X aria-hidden size={14} />
          </button>
        </div>
      ))}
      <div className={row}>
        <span className={name}>Lit</span>
        <Pick
          label="When it is lit"
          value={own.lit?.when ?? "never"}
          options={LITS}
          onChange={(when) => set({ lit: firstLit(house, room, when as KeyLit["when"] | "never") })}
        />
        {own.lit && litParts(own.lit)}
      </div>
      {surface.device && (
        <HardKey
          surface={surface}
          device={surface.device}
          value={own.sends ?? undefined}
          onChange={(sends) => set({ sends })}
        />
      )}
      <div className={row}>
        <span className={name}>Looks</span>
        <FileButton label="Picture of the key" accept="image/png,image/jpeg,image/webp" onFile={picture}>
          <ImagePlus aria-hidden size={14} /> Picture
        </FileButton>
        {own.picture && (
          <>
            <img src={own.picture} alt="" className="h-8" />
            <button
              type="button"
              className="btn border-transparent px-2"
              onClick={() => set({ picture: null })}
            >
              Take it away
            </button>
          </>
        )}
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={own.tint != null}
            onChange={(event) =>
              set({ tint: event.target.checked ? { ink: "#1e2930", ground: "#f6f1e4" } : null })
            }
          />
          colours of its own
        </label>
        {own.tint && (
          <>
            <input
              type="color"
              aria-label="Colour of the letters"
              value={own.tint.ink}
              onChange={(event) => own.tint && set({ tint: { ...own.tint, ink: event.target.value } })}
            />
            <input
              type="color"
              aria-label="Colour of the key"
              value={own.tint.ground}
              onChange={(event) => own.tint && set({ tint: { ...own.tint, ground: event.target.value } })}
            />
          </>
        )}
      </div>
      {problem && <ProblemNote text={problem} />}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <button
          type="button"
          className="btn"
          onClick={() =>
            set({
              bindings: [
                ...bindings,
                {
                  gesture: bindings.length ? "hold" : "tap",
                  in_activity: null,
                  does: firstDoes(house, room, surface, "command"),
                  held: "once",
                },
              ],
            })
          }
        >
          <Plus aria-hidden size={14} /> Meaning
        </button>
        <button type="button" className="btn" onClick={duplicate}>
          <Copy aria-hidden size={14} /> Duplicate
        </button>
        <button
          type="button"
          className="btn"
          onClick={() => {
            savePage(surface, without(page, saved), `“${saved.label}” taken away. Undo brings it back.`);
            onClose();
          }}
        >
          <Trash2 aria-hidden size={14} /> Take away
        </button>
        <button type="submit" className="btn btn-main ml-auto" disabled={!changed}>
          Save key
        </button>
      </div>
    </form>
  );
}

/** The hard key, face or gesture that stands for a key: chosen, or found by doing it. */
function HardKey({
  surface,
  device,
  value,
  onChange,
}: {
  surface: Surface;
  device: string;
  value: string | undefined;
  onChange: (sends: string | null) => void;
}) {
  const { house, room } = useRoom();
  const [waits, setWaits] = useState(false);
  const known = choices(house, room);
  return (
    <div className="flex min-h-9 flex-wrap items-center gap-2">
      <span className="w-20 shrink-0 text-muted">Sent by</span>
      <Pick
        label="Hard key, face or gesture"
        value={value ?? ""}
        options={[["", "no key of it"], ...known.functions(device)]}
        onChange={(id) => onChange(id || null)}
      />
      <button type="button" className="btn" aria-pressed={waits} onClick={() => setWaits(!waits)}>
        <Hand aria-hidden size={14} /> {waits ? "Waiting for a press …" : "Identify by pressing"}
      </button>
      {waits && (
        <Identify
          device={device}
          onHeard={(id) => {
            onChange(id);
            setWaits(false);
          }}
        />
      )}
      {waits && (
        <span className="text-muted">
          Press it on {surface.name}, or do the gesture, in the room or in Rehearse on another page.
        </span>
      )}
    </div>
  );
}

/** Listens to the room until the device sends a press. */
function Identify({ device, onHeard }: { device: string; onHeard: (id: string) => void }) {
  const { house, room } = useRoom();
  const view = useRehearsal(house.house.id, room);
  const pressed = view?.pressed.filter((known) => known.device === device).at(-1);
  const began = useRef<number>(undefined);
  const now = view?.now_ms;
  useEffect(() => {
    if (now === undefined) return;
    began.current ??= now;
    if (pressed && pressed.at_ms >= began.current) onHeard(pressed.function);
  }, [now, pressed, onHeard]);
  return null;
}
