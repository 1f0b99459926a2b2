import { useEffect, useMemo, useRef, useState } from "react";
import { putOver } from "../../api/entities";
import { RequestError } from "../../api/client";
import { useEdit, useMatrix, useProving } from "../../api/queries";
import type { Cell, Matrix, RoomPlans } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { clockTime, readyTime } from "../../ui/time";
import { Waiting } from "../../ui/Waiting";
import { many } from "../../ui/when";
import { NO_PLANS } from "./hand";
import { changedSince, lookedAt, situationKey, situationName, type Looked } from "./situations";
import { MARK_WORD, markOf, VerdictBar, type Mark } from "./Verdict";

const store = (room: string) => `kestrel-dune looked ${room}`;

function remembered(room: string): Looked | undefined {
  try {
    const text = localStorage.getItem(store(room));
    return text ? (JSON.parse(text) as Looked) : undefined;
  } catch {
    return undefined;
  }
}

/** Every way from one situation to another: time, transmissions, verdict. Arrows move, Enter opens. */
export function MatrixView({ onOpen }: { onOpen: (from: string, to: string) => void }) {
  const { house, room } = useRoom();
  const matrix = useMatrix(house.house.id, room);
  const [last] = useState(() => remembered(room));
  const changed = useMemo(
    () => (matrix.data ? changedSince(last, matrix.data) : new Set<string>()),
    [last, matrix.data],
  );
  useEffect(() => {
    const seen = matrix.data;
    if (!seen || matrix.isPlaceholderData) return;
    // What was on the screen when the table is left is what the next look compares with.
    return () => localStorage.setItem(store(room), JSON.stringify(lookedAt(seen)));
  }, [matrix.data, matrix.isPlaceholderData, room]);
  const proving = (
    <Proving
      waiting={matrix.isFetching}
      stopped={matrix.error instanceof RequestError && matrix.error.problem.kind === "cancelled"}
      again={() => void matrix.refetch()}
    />
  );
  if (!matrix.data) {
    return (
      <>
        <Waiting what="the switch matrix" error={matrix.error} />
        {proving}
      </>
    );
  }
  return (
    <div className={matrix.isPlaceholderData ? "opacity-60" : ""}>
      {proving}
      <Table matrix={matrix.data} changed={changed} onOpen={onOpen} />
      <Legend matrix={matrix.data} changed={changed.size} />
      <PolicyLine />
    </div>
  );
}

/** A proof that takes its time: how far it is, and the way to end it; once ended, the way to begin again. */
function Proving({ waiting, stopped, again }: { waiting: boolean; stopped: boolean; again: () => void }) {
  const { house, room } = useRoom();
  const { progress, cancel } = useProving(house.house.id, room, waiting);
  if (!waiting && stopped) {
    return (
      <p className="px-6 pb-3">
        <button type="button" className="btn" onClick={again}>
          Prove the room
        </button>
      </p>
    );
  }
  if (!waiting || !progress) return null;
  return (
    <p className="flex items-center gap-3 px-6 pb-3">
      <span role="status">
        {progress.of === 0
          ? "The proof waits for another one to end."
          : `${progress.done} of ${progress.of} cells proved.`}
      </span>
      <button type="button" className="btn" disabled={cancel.isPending} onClick={() => cancel.mutate()}>
        Cancel the proof
      </button>
    </p>
  );
}

function Table({
  matrix,
  changed,
  onOpen,
}: {
  matrix: Matrix;
  changed: Set<string>;
  onOpen: (from: string, to: string) => void;
}) {
  const { house } = useRoom();
  const [at, setAt] = useState<[number, number]>([0, matrix.situations.length > 1 ? 1 : 0]);
  const grid = useRef<HTMLTableElement>(null);
  const keys = matrix.situations.map(situationKey);
  const cell = (from: string, to: string) =>
    matrix.cells.find((known) => situationKey(known.from) === from && situationKey(known.to) === to);
  const move = (event: React.KeyboardEvent, rows: number, columns: number) => {
    event.preventDefault();
    const clamp = (value: number) => Math.max(0, Math.min(keys.length - 1, value));
    let next: [number, number] = [clamp(at[0] + rows), clamp(at[1] + columns)];
    // The diagonal is empty: go past it.
    if (next[0] === next[1]) next = [clamp(next[0] + rows), clamp(next[1] + columns)];
    if (next[0] === next[1]) return;
    setAt(next);
    grid.current?.querySelector<HTMLElement>(`[data-at="${next[0]} ${next[1]}"]`)?.focus();
  };
  const arrows: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
  };
  return (
    <div className="scrolls overflow-x-auto">
      <table ref={grid} className="border-collapse" aria-label="Switch matrix">
        <thead>
          <tr className="border-b border-ink text-[13.5px] text-muted">
            <th scope="col" className="py-1 pr-4 font-medium">
              from ↓ to →
            </th>
            {keys.map((to) => (
              <th key={to} scope="col" className="min-w-[9.2rem] px-2 py-1 text-left font-semibold text-ink">
                {situationName(house, to)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {keys.map((from, row) => (
            <tr key={from} className="border-b border-rule">
              <th scope="row" className="py-1 pr-4 text-left font-semibold whitespace-nowrap">
                {situationName(house, from)}
              </th>
              {keys.map((to, column) => {
                const own = cell(from, to);
                if (!own) return <td key={to} aria-hidden className="bg-soft" />;
                return (
                  <td key={to} className="p-0">
                    <button
                      type="button"
                      data-at={`${row} ${column}`}
                      tabIndex={at[0] === row && at[1] === column ? 0 : -1}
                      className="block w-full px-2 py-1.5 text-left hover:bg-soft"
                      onFocus={() => setAt([row, column])}
                      onClick={() => onOpen(from, to)}
                      onKeyDown={(event) => {
                        const by = arrows[event.key];
                        if (by) move(event, ...by);
                      }}
                    >
                      <CellView cell={own} changed={changed.has(`${from} ${to}`)} />
                    </button>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function CellView({ cell, changed }: { cell: Cell; changed: boolean }) {
  const mark = markOf(cell);
  return (
    <>
      <span className="flex items-baseline gap-2">
        <span className="font-mono">{readyTime(cell.ready_ms)}</span>
        <span className="text-[12.5px] text-muted">
          {cell.sends} {cell.sends === 1 ? "send" : "sends"}
        </span>
        {changed && <span className="text-[12.5px] font-semibold text-accent">new</span>}
      </span>
      <span className="mt-0.5 flex items-center gap-1.5 text-[12.5px] whitespace-nowrap">
        <VerdictBar mark={mark} width={26} />
        {MARK_WORD[mark]}
        {mark === "hands" && !cell.waits_hold ? "*" : ""}
        {cell.not_proved?.beyond_ours && ", beyond not proved"}
      </span>
      {cell.hot_ms != null && (
        <span className="block text-[12.5px] text-muted">hot {clockTime(cell.hot_ms)}</span>
      )}
      {!cell.runnable && mark !== "unsent" && (
        <span className="block text-[12.5px] text-stop">cannot be sent yet</span>
      )}
    </>
  );
}

function Legend({ matrix, changed }: { matrix: Matrix; changed: number }) {
  const marks: [Mark, string][] = [
    ["certain", "Certain: from every state, for every duration"],
    ["waits", "Certain if the waits hold: some are not measured yet"],
    ["hands", "Certain if nobody else touches it (*: and if the waits hold)"],
    ["risk", "At risk: open it for the story and the remedies"],
    ["unproved", "Not proved: there are too many states to look at"],
    ["unsent", "Cannot be sent: open it for the place to mend"],
  ];
  return (
    <div className="mt-3 text-[13.5px] text-muted">
      <ul className="grid gap-x-6 gap-y-1 md:grid-cols-2">
        {marks.map(([mark, words]) => (
          <li key={mark} className="flex items-center gap-2">
            <VerdictBar mark={mark} /> {words}
          </li>
        ))}
      </ul>
      <p className="mt-2">
        <em>hot</em>: right after the last plan, while something still cools or moves. {many(matrix.states)}{" "}
        states were looked at
        {matrix.coupled.length > 0 &&
          `; ${matrix.coupled.map((group) => group.join(" and ")).join("; ")} switch each other and are one machine`}
        .
        {changed > 0 &&
          ` ${changed} ${changed === 1 ? "cell has" : "cells have"} changed since your last look.`}
      </p>
    </div>
  );
}

/** From which states the plans of this room are derived. */
function PolicyLine() {
  const { house, room, say } = useRoom();
  const edit = useEdit(house.house.id);
  const own = house.rooms.find((known) => known.id === room);
  if (!own) return null;
  const plans: RoomPlans = own.plans ?? NO_PLANS;
  const save = (change: Partial<RoomPlans>) =>
    edit.mutate([putOver(house, { entity: "plans", value: { ...plans, ...change, room } })], {
      onSuccess: (saved) => say(saved.title),
      onError: (error) => say(error.message),
    });
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-rule pt-3">
      <div className="flex items-center gap-2">
        <span className="label mb-0">Plans of this room</span>
        <Choice
          label="Plans of this room"
          className="w-72"
          value={plans.policy ?? "trusting"}
          onChange={(policy) => save({ policy: policy as "trusting" | "safe" })}
          options={[
            { value: "trusting", label: "trusting", hint: "from what our plans leave" },
            { value: "safe", label: "safe", hint: "from any state" },
          ]}
        />
      </div>
      <label className="flex min-h-8 items-center gap-2">
        <input
          type="checkbox"
          className="size-4"
          checked={plans.nobody_else ?? false}
          onChange={(event) => save({ nobody_else: event.target.checked })}
        />
        A rule here: nobody else touches the devices
      </label>
    </div>
  );
}
