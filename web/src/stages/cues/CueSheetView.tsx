import { ArrowDown, ArrowUp, ChevronDown, ChevronRight, Trash2 } from "lucide-react";
import { Fragment } from "react";
import type { Cue, CueSheet } from "../../api/types";
import { useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { NotSaved } from "../../ui/NotSaved";
import { forget } from "../../ui/draft";
import { useShown } from "../../ui/shown";
import { Waiting } from "../../ui/Waiting";
import { localClocks } from "../../ui/when";
import { useCueSheet, useLighting } from "./api";
import { CueForm } from "./CueForm";
import { levelOf, zoneNamed } from "./lighting";

/** A zone with its column. */
interface Column {
  id: string;
  name: string;
}

/** The cue sheet: one line a moment, with the levels of the zones as columns. */
export function CueSheetView({
  open,
  onOpen,
  fresh,
  onFresh,
}: {
  open: string | undefined;
  onOpen: (id: string | undefined) => void;
  /** A cue that is not saved yet. */
  fresh?: Cue | undefined;
  /** It was saved, or thrown away. */
  onFresh?: () => void;
}) {
  const { house } = useRoom();
  const { lighting, save, trouble } = useLighting();
  const sheet = useCueSheet();
  if (!sheet.data) return <Waiting what="the cue sheet" error={sheet.error} />;
  const adding = fresh && (
    <FreshCue
      cue={fresh}
      onSave={(cue) => {
        save({ cues: [...lighting.cues, cue] }, "Cue added. Undo takes it back.");
        onFresh?.();
        onOpen(cue.id);
      }}
      onAway={() => onFresh?.()}
    />
  );
  if (lighting.cues.length === 0) {
    if (adding) return adding;
    return (
      <p className="border-t border-ink py-2 text-muted">
        No cue yet.{" "}
        {lighting.zones.length === 0
          ? "Begin with Zones and looks: name what is dimmed together and what levels belong together. Then add a cue."
          : "Add a cue: the arrival first, then the film, which begins with playback and not with the start of the activity."}
      </p>
    );
  }
  // Zones of other rooms that a look of this one sets have a column too.
  const ids = new Set(lighting.zones.map((zone) => zone.id));
  for (const look of lighting.looks) for (const level of look.levels) ids.add(level.zone);
  const zones = [...ids].map((id) => ({ id, name: zoneNamed(house, id)?.name ?? "gone" }));
  const change = (cues: Cue[], said: string) => save({ cues }, said);
  const move = (at: number, by: number) => {
    const cues = [...lighting.cues];
    const [cue] = cues.splice(at, 1);
    if (cue) cues.splice(at + by, 0, cue);
    change(cues, "Moved. Where two set one zone at the same moment, the lower one wins.");
  };
  return (
    <div className="overflow-x-auto">
      {trouble && <ProblemNote text={trouble} />}
      <div className="scrolls">
        <table className="w-full border-collapse" aria-label="Cue sheet">
          <SheetHead zones={zones} />
          <tbody>
            {lighting.cues.map((cue, at) => {
              const line = sheet.data.lines.find((known) => known.cue === cue.id);
              const isOpen = open === cue.id;
              return (
                <Fragment key={cue.id}>
                  <CueRow
                    cue={cue}
                    line={line}
                    zones={zones}
                    isOpen={isOpen}
                    first={at === 0}
                    last={at === lighting.cues.length - 1}
                    onOpen={onOpen}
                    move={(by) => move(at, by)}
                  />
                  {isOpen && (
                    <tr className="border-b border-rule">
                      <td colSpan={5 + zones.length} className="bg-soft px-3 py-2">
                        <CueForm
                          key={JSON.stringify(cue)}
                          cue={cue}
                          onSave={(next) =>
                            change(
                              lighting.cues.map((known) => (known.id === next.id ? next : known)),
                              "Cue saved. Undo takes it back.",
                            )
                          }
                        />
                        <button
                          type="button"
                          className="btn mt-2 text-stop"
                          onClick={() => {
                            onOpen(undefined);
                            change(
                              lighting.cues.filter((known) => known.id !== cue.id),
                              "Cue removed. Undo brings it back.",
                            );
                          }}
                        >
                          <Trash2 aria-hidden size={14} /> Remove this cue
                        </button>
                      </td>
                    </tr>
                  )}
                </Fragment>
              );
            })}
          </tbody>
        </table>
      </div>
      {adding}
    </div>
  );
}

/** A cue that is nothing until it is saved. */
function FreshCue({ cue, onSave, onAway }: { cue: Cue; onSave: (cue: Cue) => void; onAway: () => void }) {
  const place = useShown<HTMLElement>(true);
  return (
    <section ref={place} aria-label="New cue" className="mt-3 border border-edge bg-soft px-3 py-2">
      <p className="mb-1 font-semibold">
        A new cue <span className="font-normal text-muted">is nothing until it is saved.</span>
      </p>
      <CueForm cue={cue} fresh onSave={onSave} />
      <button
        type="button"
        className="btn mt-2"
        onClick={() => {
          forget(`cue:${cue.id}`);
          onAway();
        }}
      >
        Throw it away
      </button>
    </section>
  );
}

/** The columns: moment, provided, light, also, and a zone each. */
function SheetHead({ zones }: { zones: Column[] }) {
  return (
    <thead>
      <tr className="border-b border-ink text-left text-[13.5px] text-muted">
        <th scope="col" className="py-1 pr-3 font-medium">
          Moment
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          Provided
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          Light
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          Also
        </th>
        {zones.map((zone) => (
          <th key={zone.id} scope="col" className="py-1 pr-2 text-right font-medium">
            {zone.name} <span className="sr-only">level in percent</span>
          </th>
        ))}
        <th scope="col" className="w-8">
          <span className="sr-only">Order</span>
        </th>
      </tr>
    </thead>
  );
}

/** One line of the sheet. */
function CueRow({
  cue,
  line,
  zones,
  isOpen,
  first,
  last,
  onOpen,
  move,
}: {
  cue: Cue;
  line: CueSheet["lines"][number] | undefined;
  zones: Column[];
  isOpen: boolean;
  first: boolean;
  last: boolean;
  onOpen: (id: string | undefined) => void;
  move: (by: number) => void;
}) {
  const { lighting } = useLighting();
  const head = useShown<HTMLTableRowElement>(isOpen);
  const Chevron = isOpen ? ChevronDown : ChevronRight;
  return (
    <tr
      ref={head}
      className={`border-b border-rule align-top ${cue.off ? "text-muted" : ""}`}
      data-cue={line?.moment}
    >
      <th scope="row" className="pr-3 text-left font-semibold">
        <button
          type="button"
          className="flex min-h-8 items-center gap-1 text-left hover:text-accent"
          aria-expanded={isOpen}
          onClick={() => onOpen(isOpen ? undefined : cue.id)}
        >
          <Chevron aria-hidden size={14} className="shrink-0" /> {localClocks(line?.moment ?? "new")}
          {cue.off && <span className="font-normal"> (left out)</span>}
          <NotSaved of={[`cue:${cue.id}`]} />
        </button>
      </th>
      <td className="py-1.5 pr-3">{localClocks(line?.provided.join(", ") ?? "") || "–"}</td>
      <td className="py-1.5 pr-3">{line?.light}</td>
      <td className="py-1.5 pr-3">{line?.also.join("; ") || "–"}</td>
      {zones.map((zone) => {
        const level = levelOf(lighting, cue, zone.id);
        return (
          <td key={zone.id} className="py-1.5 pr-2 text-right font-mono whitespace-nowrap">
            {level === undefined ? (
              <span className="text-muted">·</span>
            ) : level === "before" ? (
              <span className="text-[13px] text-muted">before</span>
            ) : (
              `${level} %`
            )}
          </td>
        );
      })}
      <td className="text-right whitespace-nowrap">
        <button
          type="button"
          className="btn border-transparent px-1"
          aria-label="Move up"
          disabled={first}
          onClick={() => move(-1)}
        >
          <ArrowUp aria-hidden size={14} />
        </button>
        <button
          type="button"
          className="btn border-transparent px-1"
          aria-label="Move down"
          disabled={last}
          onClick={() => move(1)}
        >
          <ArrowDown aria-hidden size={14} />
        </button>
      </td>
    </tr>
  );
}
