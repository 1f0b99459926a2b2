import { Plus } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { useRoom } from "../../shell/context";
import { StageHead } from "../../ui/StageHead";
import { inSignalOrder } from "../kit/words";
import { AddFunction } from "./AddFunction";
import { CodePanel } from "./CodePanel";
import { rowsOf, stateOf, step, type Cell, type CodeState } from "./table";

const GLYPH: Record<CodeState, string> = { none: "○", decoded: "●", raw: "◐" };
const WORD: Record<CodeState, string> = { none: "no code", decoded: "decoded", raw: "raw" };
const TONE: Record<CodeState, string> = { none: "text-stop", decoded: "text-good", raw: "text-caution" };

/** Codes: a table of functions against devices; a cell opens to its waveform. */
export function CodesStage() {
  const { house, devices } = useRoom();
  const [params, setParams] = useSearchParams();
  const [missing, setMissing] = useState(false);
  const [adding, setAdding] = useState(false);
  const grid = useRef<HTMLTableElement>(null);

  const columns = inSignalOrder(house, devices);
  const all = rowsOf(house, columns);
  const rows = missing
    ? all.filter((row) => row.cells.some((cell) => cell && stateOf(cell) === "none"))
    : all;
  const cells = all.flatMap((row) => row.cells).filter((cell) => cell !== undefined);
  const known = cells.filter((cell) => cell.code).length;
  const selected = cells.find(
    (cell) => cell.device.id === params.get("device") && cell.fn.id === params.get("function"),
  );

  const select = (cell: Cell | undefined, replace = true) => {
    const next = new URLSearchParams();
    if (cell) {
      next.set("device", cell.device.id);
      next.set("function", cell.fn.id);
    }
    setParams(next, { replace });
  };
  const focus = (row: number, column: number) =>
    grid.current?.querySelector<HTMLElement>(`[data-at="${row},${column}"]`)?.focus();
  const selectedKey = selected ? selected.device.id + selected.fn.id : undefined;
  useEffect(() => {
    if (selectedKey)
      grid.current?.querySelector('[aria-current="true"]')?.scrollIntoView({ block: "nearest" });
  }, [selectedKey]);

  return (
    <section aria-label="Codes" className="flex h-full min-h-0 flex-col">
      <StageHead title="Codes" figure={`${known} of ${cells.length} functions have a code`}>
        <label className="flex min-h-8 items-center gap-2">
          <input
            type="checkbox"
            className="size-4"
            checked={missing}
            onChange={(event) => setMissing(event.target.checked)}
          />
          Only what is missing
        </label>
        <button type="button" className="btn" onClick={() => setAdding(true)}>
          <Plus aria-hidden size={15} /> Add function
        </button>
      </StageHead>
      {cells.length === 0 ? (
        <p className="border-t border-rule py-6">
          No device of this room has a function yet. Add a device in Kit first; its keys then stand here.
        </p>
      ) : (
        <div
          className={`min-h-[150px] overflow-auto border-b border-rule ${selected ? "basis-1/5" : "flex-1"}`}
        >
          <table ref={grid} className="w-full border-collapse" aria-label="Functions against devices">
            <thead>
              <tr className="text-[13.5px] text-muted">
                <th
                  scope="col"
                  className="sticky top-0 z-10 border-b border-ink bg-paper py-1 pr-3 font-medium"
                >
                  Function
                </th>
                {columns.map((device) => (
                  <th
                    key={device.id}
                    scope="col"
                    className="sticky top-0 z-10 border-b border-ink bg-paper px-2 py-1 font-medium"
                  >
                    {device.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row, down) => (
                <tr key={row.name} className="border-b border-rule">
                  <th scope="row" className="py-0 pr-3 whitespace-nowrap">
                    {row.name}
                  </th>
                  {row.cells.map((cell, right) => (
                    <td key={columns[right]?.id} className="p-0">
                      {cell && (
                        <CellButton
                          cell={cell}
                          at={`${down},${right}`}
                          current={cell.device.id === selected?.device.id && cell.fn.id === selected.fn.id}
                          onOpen={() => select(cell)}
                          onArrow={(key) => {
                            const to = step(rows, [down, right], key);
                            if (to) focus(...to);
                            return to !== undefined;
                          }}
                        />
                      )}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          {missing && rows.length === 0 && <p className="py-4">Every function has a code.</p>}
        </div>
      )}
      {selected && (
        <CodePanel
          key={selected.device.id + selected.fn.id}
          device={selected.device}
          fn={selected.fn}
          line={selected.code}
          onClose={() => {
            const at = grid.current?.querySelector<HTMLElement>('[aria-current="true"]');
            select(undefined);
            at?.focus();
          }}
        />
      )}
      {!selected && cells.length > 0 && (
        <p className="pt-2 text-[13px] text-muted">
          Arrows move, Enter opens a function: its waveform with the decoder's reading, or the place to paste
          a capture.
        </p>
      )}
      <AddFunction
        open={adding}
        devices={columns}
        onClose={() => setAdding(false)}
        onAdded={(device, id) => {
          setAdding(false);
          setParams(new URLSearchParams({ device, function: id }), { replace: true });
        }}
      />
    </section>
  );
}

function CellButton({
  cell,
  at,
  current,
  onOpen,
  onArrow,
}: {
  cell: Cell;
  at: string;
  current: boolean;
  onOpen: () => void;
  onArrow: (key: string) => boolean;
}) {
  const state = stateOf(cell);
  return (
    <button
      type="button"
      data-at={at}
      aria-current={current ? "true" : undefined}
      aria-label={`${cell.fn.name} of ${cell.device.name}: ${WORD[state]}`}
      title={cell.code?.summary}
      className={`flex min-h-8 w-full items-center gap-1.5 px-2 text-left whitespace-nowrap hover:bg-soft focus-visible:outline-offset-[-2px] ${current ? "bg-select" : ""}`}
      onClick={onOpen}
      onKeyDown={(event) => {
        if (onArrow(event.key)) event.preventDefault();
      }}
    >
      <span aria-hidden className={TONE[state]}>
        {GLYPH[state]}
      </span>
      <span className={state === "none" ? TONE.none : ""}>{WORD[state]}</span>
    </button>
  );
}
