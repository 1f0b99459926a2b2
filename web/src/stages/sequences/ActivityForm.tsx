import { ArrowDown, ArrowUp, Copy, Trash2 } from "lucide-react";
import { useState } from "react";
import { put, useEdit } from "../../api/queries";
import type { Activity, Device, NamedStop, Position } from "../../api/types";
import { profileOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { missing } from "../../ui/missing";
import { ProblemNote } from "../../ui/Problem";
import { Sheet } from "../../ui/Sheet";
import { ExtrasFields } from "./ExtrasFields";
import { extrasText, extrasValue, useCopyName, type ExtrasText } from "./extras";
import { forget, useTyped } from "../../ui/draft";

const NOWHERE = "nowhere";
const STAYS = "stays";
const PLAYS = ["disc-player", "streamer", "console", "tuner"];
const SHOWS = ["projector", "display"];
const SOUNDS = ["receiver", "sound-bar", "amplifier", "display"];

/** What is typed for an activity, kept until it is saved. */
function useTypedActivity(known: Activity | undefined, room: string, of: (kinds: string[]) => Device[]) {
  const draft = `activity:${known?.id ?? `new ${room}`}`;
  const first = (kinds: string[]) => of(kinds)[0]?.id;
  const [name, setName] = useTyped(`${draft}:name`, known?.name ?? "");
  const [source, setSource] = useTyped(`${draft}:source`, known?.source ?? first(PLAYS) ?? "");
  const shown = known ? known.seen_on : first(SHOWS);
  const [seen, setSeen] = useTyped(`${draft}:seen`, shown ?? NOWHERE);
  const sounding = known ? known.heard_on : first(SOUNDS);
  const [heard, setHeard] = useTyped(`${draft}:heard`, sounding ?? NOWHERE);
  const [moves, setMoves] = useTyped(`${draft}:moves`, known?.moves ?? []);
  const [extras, setExtras] = useTyped<ExtrasText>(`${draft}:extras`, extrasText(known?.extras));
  return {
    ...{ draft, name, source, seen, heard, moves, extras },
    ...{ setName, setSource, setSeen, setHeard, setMoves, setExtras },
  };
}

/** What an activity is: what plays, where it is seen and heard, and what moves for it. */
export function ActivityForm({
  editing,
  onClose,
  onSaved,
}: {
  editing: Activity | "new" | undefined;
  onClose: () => void;
  onSaved: (id: string) => void;
}) {
  const title = editing === "new" ? "Add activity" : "Edit activity";
  return (
    <Sheet open={editing !== undefined} onClose={onClose} title={title}>
      {editing && (
        <Fields
          key={editing === "new" ? "new" : editing.id}
          known={editing === "new" ? undefined : editing}
          onClose={onClose}
          onSaved={onSaved}
        />
      )}
    </Sheet>
  );
}

function Fields({
  known,
  onClose,
  onSaved,
}: {
  known: Activity | undefined;
  onClose: () => void;
  onSaved: (id: string) => void;
}) {
  const { house, room, devices, say } = useRoom();
  const edit = useEdit(house.house.id);
  const [base] = useState(known && house.versions[known.id]);
  const of = (kinds: string[]) => devices.filter((device) => kinds.includes(profileOf(house, device).kind));
  const typed = useTypedActivity(known, room, of);
  const { draft, name, source, seen, heard, moves, extras } = typed;
  const { setName, setSource, setSeen, setHeard, setMoves, setExtras } = typed;
  const [wrong, setWrong] = useState<string>();
  const rename = useCopyName(house, room);
  const options = (kinds: string[]) => of(kinds).map((device) => ({ value: device.id, label: device.name }));
  const finish = (saved: { title: string }, id?: string) => {
    forget(draft);
    say(saved.title);
    onClose();
    if (id) onSaved(id);
  };
  const others = house.activities.filter((a) => a.room === room);
  const sourceModel = devices.find((device) => device.id === source);
  const save = () => {
    const own = extrasValue(extras, sourceModel ? profileOf(house, sourceModel) : undefined);
    edit.reset();
    // All that is missing or wrong is told at once.
    const lacks = missing([["a name", name.trim() !== ""]]);
    if (lacks || typeof own === "string") {
      return setWrong([lacks, typeof own === "string" ? own : undefined].filter(Boolean).join(" "));
    }
    setWrong(undefined);
    const value: Activity = {
      id: known?.id ?? crypto.randomUUID(),
      room,
      name,
      position: known?.position ?? Math.max(-1, ...others.map((a) => a.position)) + 1,
      source,
      seen_on: seen === NOWHERE ? null : seen,
      heard_on: heard === NOWHERE ? null : heard,
      moves,
      extras: own,
    };
    edit.mutate([put({ entity: "activity", value }, base)], {
      onSuccess: (saved) => finish(saved, value.id),
    });
  };
  const remove = () => {
    if (!known) return;
    edit.mutate([{ do: "remove", kind: "activity", id: known.id, base: base ?? 0 }], {
      onSuccess: (saved) => finish(saved),
    });
  };
  const duplicate = () => {
    if (!known) return;
    const value: Activity = {
      ...known,
      id: crypto.randomUUID(),
      name: rename(known.name),
      position: Math.max(-1, ...others.map((a) => a.position)) + 1,
    };
    edit.mutate([put({ entity: "activity", value }, undefined)], {
      onSuccess: (saved) => finish(saved, value.id),
    });
  };
  const move = (by: number) => {
    const inOrder = [...others].sort((a, b) => a.position - b.position);
    const at = inOrder.findIndex((a) => a.id === known?.id);
    const [here, there] = [inOrder[at], inOrder[at + by]];
    if (!here || !there) return;
    const swapped = inOrder.map((a) => (a === here ? there : a === there ? here : a));
    const edits = swapped.flatMap((a, position) =>
      a.position === position
        ? []
        : [put({ entity: "activity", value: { ...a, position } }, house.versions[a.id])],
    );
    edit.mutate(edits, { onSuccess: (saved) => finish(saved) });
  };
  if (of(PLAYS).length === 0) {
    return (
      <p>
        There is no source in this room: add a disc player, a streamer, a console or a tuner in Kit first.
      </p>
    );
  }
  return (
    <form
      className="grid gap-3"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <label>
        <span className="label">Name</span>
        <input className="field" autoFocus value={name} onChange={(event) => setName(event.target.value)} />
      </label>
      <div>
        <span className="label">What plays</span>
        <Choice label="What plays" value={source} onChange={setSource} options={options(PLAYS)} />
      </div>
      <SeenHeard seen={seen} setSeen={setSeen} heard={heard} setHeard={setHeard} options={options} />
      <Movers moves={moves} setMoves={setMoves} />
      <ExtrasFields
        value={extras}
        onChange={setExtras}
        source={source}
        heard={heard === NOWHERE ? undefined : heard}
      />
      {wrong && <ProblemNote text={wrong} />}
      {edit.error && <ProblemNote text={edit.error.message} />}
      {known && <Places pending={edit.isPending} duplicate={duplicate} move={move} />}
      <Deeds known={known !== undefined} pending={edit.isPending} onClose={onClose} remove={remove} />
    </form>
  );
}

/** Where something that moves is to stand for an activity; a choice where it has stops between its ends. */
function Mover({
  device,
  stops,
  to,
  onChange,
}: {
  device: Device;
  stops: NamedStop[];
  to: Position | undefined;
  onChange: (to: Position | undefined) => void;
}) {
  if (stops.length === 0) {
    return (
      <label className="flex min-h-8 items-center gap-2">
        <input
          type="checkbox"
          className="size-4"
          checked={to === "down"}
          onChange={(event) => onChange(event.target.checked ? "down" : undefined)}
        />
        {device.name} comes down for it
      </label>
    );
  }
  const label = `${device.name} goes`;
  return (
    <div>
      <span className="label">{label}</span>
      <Choice
        label={label}
        value={to === undefined ? STAYS : typeof to === "string" ? to : String(to.stop)}
        onChange={(value) =>
          onChange(
            value === STAYS
              ? undefined
              : value === "up" || value === "down"
                ? value
                : { stop: Number(value) },
          )
        }
        options={[
          { value: STAYS, label: "nowhere for it" },
          { value: "up", label: "up" },
          ...stops.map((stop, at) => ({
            value: String(at),
            label: `to “${stop.name}”, ${stop.down_percent} % down`,
          })),
          { value: "down", label: "down" },
        ]}
      />
    </div>
  );
}

/** Where it is seen and where it is heard. */
function SeenHeard({
  seen,
  setSeen,
  heard,
  setHeard,
  options,
}: {
  seen: string;
  setSeen: (id: string) => void;
  heard: string;
  setHeard: (id: string) => void;
  options: (kinds: string[]) => { value: string; label: string }[];
}) {
  return (
    <div className="grid grid-cols-2 gap-3">
      <div>
        <span className="label">Seen on</span>
        <Choice
          label="Seen on"
          value={seen}
          onChange={setSeen}
          options={[...options(SHOWS), { value: NOWHERE, label: "nowhere" }]}
        />
      </div>
      <div>
        <span className="label">Heard through</span>
        <Choice
          label="Heard through"
          value={heard}
          onChange={setHeard}
          options={[...options(SOUNDS), { value: NOWHERE, label: "nothing" }]}
        />
      </div>
    </div>
  );
}

/** What comes down or up for it. */
function Movers({
  moves,
  setMoves,
}: {
  moves: NonNullable<Activity["moves"]>;
  setMoves: (moves: NonNullable<Activity["moves"]>) => void;
}) {
  const { house, devices } = useRoom();
  const movers = devices.filter((device) => profileOf(house, device).motion);
  return (
    <>
      {movers.map((device) => (
        <Mover
          key={device.id}
          device={device}
          stops={profileOf(house, device).stops ?? []}
          to={moves.find((move) => move.device === device.id)?.to}
          onChange={(to) =>
            setMoves([
              ...moves.filter((move) => move.device !== device.id),
              ...(to === undefined ? [] : [{ device: device.id, to }]),
            ])
          }
        />
      ))}
    </>
  );
}

/** A twin of the activity, and its place in the list. */
function Places({
  pending,
  duplicate,
  move,
}: {
  pending: boolean;
  duplicate: () => void;
  move: (by: number) => void;
}) {
  return (
    <div className="flex gap-2 border-t border-rule pt-2">
      <button type="button" className="btn" disabled={pending} onClick={duplicate}>
        <Copy aria-hidden size={15} /> Duplicate
      </button>
      <button type="button" className="btn" disabled={pending} onClick={() => move(-1)}>
        <ArrowUp aria-hidden size={15} /> Earlier in the list
      </button>
      <button type="button" className="btn" disabled={pending} onClick={() => move(1)}>
        <ArrowDown aria-hidden size={15} /> Later
      </button>
    </div>
  );
}

/** Save, cancel, remove. */
function Deeds({
  known,
  pending,
  onClose,
  remove,
}: {
  known: boolean;
  pending: boolean;
  onClose: () => void;
  remove: () => void;
}) {
  return (
    <div className="flex gap-2">
      <button type="submit" className="btn btn-main" disabled={pending}>
        {known ? "Save" : "Add activity"}
      </button>
      <button type="button" className="btn" onClick={onClose}>
        Cancel
      </button>
      {known && (
        <button type="button" className="btn ml-auto text-stop" disabled={pending} onClick={remove}>
          <Trash2 aria-hidden size={15} /> Remove activity
        </button>
      )}
    </div>
  );
}
