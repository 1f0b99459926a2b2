import { Copy, ImagePlus, Plus, Trash2, X } from "lucide-react";
import { useState } from "react";
import type { Binding, Does, KeyLit, Surface, SurfaceKey, SurfacePage } from "../../api/types";
import { choosePicture, pictureUrl } from "./pictures";
import { useRoom } from "../../shell/context";
import { FileButton } from "../../ui/FileButton";
import { Figure, Pick } from "../../ui/Inline";
import { ProblemNote } from "../../ui/Problem";
import type { SurfaceActions } from "./api";
import { DoesParts } from "./DoesParts";
import { HardKey } from "./HardKey";
import { LitParts } from "./LitParts";
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
import { forget, useTyped } from "../../ui/draft";

const ROW = "flex min-h-10 flex-wrap items-center gap-x-2 gap-y-1.5 border-b border-rule py-1";
const NAME = "w-20 shrink-0 text-muted";

/** What one gesture on a key means. */
function MeaningRow({
  surface,
  binding: one,
  first,
  onChange,
  onRemove,
}: {
  surface: Surface;
  binding: Binding;
  first: boolean;
  onChange: (next: Binding) => void;
  onRemove: () => void;
}) {
  const { house, room } = useRoom();
  const known = choices(house, room);
  return (
    <div className={ROW}>
      <span className={NAME}>{first ? "When it is" : "and when"}</span>
      <Pick
        label="Gesture"
        value={one.gesture ?? "tap"}
        options={GESTURES}
        onChange={(gesture) => onChange({ ...one, gesture: gesture as NonNullable<Binding["gesture"]> })}
      />
      <Pick
        label="In activity"
        value={one.in_activity ?? ""}
        options={[
          ["", "in every activity"],
          ...known.activities.map(([id, text]) => [id, `in ${text}`] as const),
        ]}
        onChange={(id) => onChange({ ...one, in_activity: id || null })}
      />
      <Pick
        label="It does"
        value={one.does.does}
        options={DOES}
        onChange={(kind) =>
          onChange({
            ...one,
            held: "once",
            // Never by a tap: that comes too easily.
            gesture: kind === "house-rest" ? "hold" : one.gesture,
            does: firstDoes(house, room, surface, kind as Does["does"]),
          })
        }
      />
      <DoesParts surface={surface} does={one.does} onChange={(does) => onChange({ ...one, does })} />
      {(one.gesture ?? "tap") === "tap" && ["command", "volume"].includes(one.does.does) && (
        <Pick
          label="While held"
          value={one.held ?? "once"}
          options={HELDS}
          onChange={(held) => onChange({ ...one, held: held as NonNullable<Binding["held"]> })}
        />
      )}
      {(one.gesture ?? "tap") === "tap" && ["command", "volume"].includes(one.does.does) && (
        <MostPerSecond value={one.most_per_s} onChange={(most_per_s) => onChange({ ...one, most_per_s })} />
      )}
      <button
        type="button"
        className="btn border-transparent px-1"
        aria-label="Remove this meaning"
        onClick={onRemove}
      >
        <X aria-hidden size={14} />
      </button>
    </div>
  );
}

/** Twists of a controller come in bursts: so many of them count. */
function MostPerSecond({
  value,
  onChange,
}: {
  value: number | null | undefined;
  onChange: (next: number | null) => void;
}) {
  return (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        checked={value != null}
        onChange={(event) => onChange(event.target.checked ? 4 : null)}
      />
      at most
      {value != null && <Figure label="At most" unit="" value={value} onChange={onChange} />}
      {value != null ? "a second" : "…"}
    </label>
  );
}

/** How a key looks: its picture and its colours. */
function LookRow({
  own,
  onChange,
  onProblem,
}: {
  own: SurfaceKey;
  onChange: (change: Partial<SurfaceKey>) => void;
  onProblem: (problem: string) => void;
}) {
  const { house } = useRoom();
  const picture = (file: File) => {
    choosePicture(file).then(
      (picture) => onChange({ picture }),
      (error: Error) => onProblem(error.message),
    );
  };
  return (
    <div className={ROW}>
      <span className={NAME}>Looks</span>
      <FileButton label="Picture of the key" accept="image/png,image/jpeg,image/webp" onFile={picture}>
        <ImagePlus aria-hidden size={14} /> Picture
      </FileButton>
      {own.picture && (
        <>
          <img src={pictureUrl(house.house.id, own.picture)} alt="" className="h-8" />
          <button
            type="button"
            className="btn border-transparent px-2"
            onClick={() => onChange({ picture: null })}
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
            onChange({ tint: event.target.checked ? { ink: "#1e2930", ground: "#f6f1e4" } : null })
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
            onChange={(event) => own.tint && onChange({ tint: { ...own.tint, ink: event.target.value } })}
          />
          <input
            type="color"
            aria-label="Colour of the key"
            value={own.tint.ground}
            onChange={(event) => own.tint && onChange({ tint: { ...own.tint, ground: event.target.value } })}
          />
        </>
      )}
    </div>
  );
}

/** Saves a key in its page, or a twin of it in the first free cell. */
function useKeyActions({
  surface,
  page,
  saved,
  own,
  actions: { savePage },
  onOpen,
  onProblem,
}: {
  surface: Surface;
  page: SurfacePage;
  saved: SurfaceKey;
  own: SurfaceKey;
  actions: SurfaceActions;
  onOpen: (key: string) => void;
  onProblem: (problem: string | undefined) => void;
}) {
  const save = () => {
    const next = { ...own, by_hand: true };
    const other = page.keys.find((key) => key.id !== own.id && covers(key, next));
    if (other) {
      onProblem(`It would lie on “${other.label}”. Make it smaller, or move that key first.`);
      return;
    }
    onProblem(undefined);
    forget(`key:${saved.id}`);
    savePage(
      surface,
      { ...page, keys: page.keys.map((key) => (key.id === own.id ? next : key)) },
      `“${own.label}” saved.`,
    );
  };
  const duplicate = () => {
    const cell = freeCell(surface, page.keys);
    if (!cell) {
      onProblem("There is no free cell on this page. Make the grid larger, or take a key away.");
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
  return { save, duplicate };
}

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
  const [own, setOwn] = useTyped(`key:${saved.id}`, saved);
  const [problem, setProblem] = useState<string>();
  const changed = JSON.stringify(own) !== JSON.stringify(saved);
  const set = (change: Partial<SurfaceKey>) => setOwn({ ...own, ...change });
  const bindings = own.bindings ?? [];
  const setBinding = (at: number, next: Binding) =>
    set({ bindings: bindings.map((one, index) => (index === at ? next : one)) });

  const addMeaning = () =>
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
    });
  const takeAway = () => {
    forget(`key:${saved.id}`);
    savePage(surface, without(page, saved), `“${saved.label}” taken away. Undo brings it back.`);
    onClose();
  };

  const { save, duplicate } = useKeyActions({
    surface,
    page,
    saved,
    own,
    actions,
    onOpen,
    onProblem: setProblem,
  });

  return (
    <form
      aria-label="Key"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <LabelRow own={own} set={set} onClose={onClose} />
      {bindings.map((one, at) => (
        <MeaningRow
          key={at}
          surface={surface}
          binding={one}
          first={at === 0}
          onChange={(next) => setBinding(at, next)}
          onRemove={() => set({ bindings: bindings.filter((_, index) => index !== at) })}
        />
      ))}
      <div className={ROW}>
        <span className={NAME}>Lit</span>
        <Pick
          label="When it is lit"
          value={own.lit?.when ?? "never"}
          options={LITS}
          onChange={(when) => set({ lit: firstLit(house, room, when as KeyLit["when"] | "never") })}
        />
        {own.lit && <LitParts lit={own.lit} onChange={(lit) => set({ lit })} />}
      </div>
      {surface.device && (
        <HardKey
          surface={surface}
          device={surface.device}
          value={own.sends ?? undefined}
          onChange={(sends) => set({ sends })}
        />
      )}
      <LookRow own={own} onChange={set} onProblem={setProblem} />
      {problem && <ProblemNote text={problem} />}
      <KeyDeeds changed={changed} onMeaning={addMeaning} duplicate={duplicate} takeAway={takeAway} />
    </form>
  );
}

/** What is written on the key, and how large it is. */
function LabelRow({
  own,
  set,
  onClose,
}: {
  own: SurfaceKey;
  set: (change: Partial<SurfaceKey>) => void;
  onClose: () => void;
}) {
  return (
    <div className={ROW}>
      <span className={NAME}>Label</span>
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
  );
}

/** Another meaning, a twin, taken away, saved. */
function KeyDeeds({
  changed,
  onMeaning,
  duplicate,
  takeAway,
}: {
  changed: boolean;
  onMeaning: () => void;
  duplicate: () => void;
  takeAway: () => void;
}) {
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2">
      <button type="button" className="btn" onClick={onMeaning}>
        <Plus aria-hidden size={14} /> Meaning
      </button>
      <button type="button" className="btn" onClick={duplicate}>
        <Copy aria-hidden size={14} /> Duplicate
      </button>
      <button type="button" className="btn" onClick={takeAway}>
        <Trash2 aria-hidden size={14} /> Take away
      </button>
      <button type="submit" className="btn btn-main ml-auto" disabled={!changed}>
        Save key
      </button>
    </div>
  );
}
