import { useVirtualizer, type VirtualItem } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import type { CodeState, Device } from "../../api/types";
import { NotSaved } from "../../ui/NotSaved";
import { usePrinting } from "../../ui/printing";
import { pressText, stateOf, step, type Cell, type Row } from "./table";

export const GLYPH: Record<CodeState, string> = {
  none: "○",
  captured: "◔",
  opaque: "▣",
  written: "◑",
  decoded: "●",
  tested: "✓",
  failed: "✕",
};
export const WORD: Record<CodeState, string> = {
  none: "no code",
  captured: "captured",
  opaque: "opaque",
  written: "written",
  decoded: "decoded",
  tested: "tested",
  failed: "failed",
};
export const TONE: Record<CodeState, string> = {
  none: "text-stop",
  captured: "text-caution",
  opaque: "text-caution",
  written: "text-second",
  decoded: "text-ink",
  tested: "text-good",
  failed: "text-stop",
};

const LINE = 32;
const NAME = 170;
const COLUMN = 132;

/** A device as a column of the table. */
interface Column {
  device: Device;
  title: string;
}

/** Functions against devices. Only what is seen is drawn, so that a house with thousands of codes stays quick. */
export function CodeGrid({
  rows,
  columns,
  selected,
  dim,
  onOpen,
}: {
  rows: Row[];
  columns: Column[];
  selected: Cell | undefined;
  /** Cells that are not what is looked for are drawn paler. */
  dim: (cell: Cell) => boolean;
  onOpen: (cell: Cell) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const printing = usePrinting();
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called, never passed on
  const lines = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => LINE,
    overscan: 14,
    // The heading stands above the first line, and covers what scrolls under it.
    scrollMargin: LINE,
    scrollPaddingStart: LINE,
  });
  const tracks = useVirtualizer({
    horizontal: true,
    count: columns.length,
    getScrollElement: () => box.current,
    estimateSize: () => COLUMN,
    overscan: 4,
    scrollMargin: NAME,
    scrollPaddingStart: NAME,
  });
  const at = selected ? rows.findIndex((row) => row.cells.some((cell) => cell && same(cell, selected))) : -1;
  const column = selected ? columns.findIndex((known) => known.device.id === selected.device.id) : -1;
  const key = selected ? selected.device.id + selected.fn.id : "";
  useEffect(() => {
    // The panel below takes its place first.
    const later = setTimeout(() => {
      if (at >= 0) lines.scrollToIndex(at);
      if (column >= 0) tracks.scrollToIndex(column);
    }, 60);
    return () => clearTimeout(later);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only another cell is a reason to scroll
  }, [key]);

  const focus = (row: number, right: number) => {
    lines.scrollToIndex(row);
    tracks.scrollToIndex(right);
    const cell = () => box.current?.querySelector<HTMLElement>(`[data-at="${row},${right}"]`);
    const there = cell();
    // At once where it is drawn, so that no key of a fast typist goes to the cell before.
    if (there) there.focus({ preventScroll: true });
    else requestAnimationFrame(() => requestAnimationFrame(() => cell()?.focus()));
  };
  const width = NAME + columns.length * COLUMN;
  if (printing) return <PaperTable rows={rows} columns={columns} />;
  return (
    <div ref={box} className="h-full overflow-auto" data-testid="codes">
      <div
        role="grid"
        aria-label="Functions against devices"
        aria-rowcount={rows.length + 1}
        aria-colcount={columns.length + 1}
        className="relative"
        style={{ width, height: LINE + lines.getTotalSize() }}
      >
        <GridHead width={width} tracks={tracks.getVirtualItems()} columns={columns} />
        {lines.getVirtualItems().map((line) => {
          const row = rows[line.index];
          if (!row) return null;
          return (
            <div
              key={line.key}
              role="row"
              aria-rowindex={line.index + 2}
              className="absolute left-0 border-b border-rule"
              style={{ top: line.start, height: LINE, width }}
            >
              <div
                role="rowheader"
                className="sticky left-0 z-10 inline-flex h-full items-center truncate bg-paper pr-3"
                style={{ width: NAME }}
                title={row.name}
              >
                <span className="truncate">{row.name}</span>
              </div>
              <RowCells
                row={row}
                at={line.index}
                rows={rows}
                tracks={tracks.getVirtualItems()}
                selected={selected}
                dim={dim}
                onOpen={onOpen}
                focus={focus}
              />
            </div>
          );
        })}
      </div>
    </div>
  );
}

function same(one: Cell, other: Cell): boolean {
  return one.device.id === other.device.id && one.fn.id === other.fn.id;
}

/** What may be typed for a key and not saved: a capture, a text that nobody reads, a command, its presses. */
function draftsOf({ device, fn }: Cell): string[] {
  return ["capture", "opaque", "command"].map((what) => `${what}:${device.id} ${fn.id}`);
}

function CellButton({
  cell,
  at,
  current,
  pale,
  onOpen,
  onArrow,
}: {
  cell: Cell;
  at: string;
  current: boolean;
  pale: boolean;
  onOpen: () => void;
  onArrow: (key: string) => boolean;
}) {
  const state = stateOf(cell);
  const press = pressText(cell.fn);
  return (
    <button
      type="button"
      data-at={at}
      aria-current={current ? "true" : undefined}
      aria-label={`${cell.fn.name} of ${cell.device.name}: ${WORD[state]}${cell.codes.length > 1 ? `, ${cell.codes.length} codes` : ""}`}
      title={[cell.code?.summary, press && `pressed ${press}`].filter(Boolean).join("; ")}
      className={`flex h-full w-full items-center gap-1.5 overflow-hidden px-2 text-left whitespace-nowrap hover:bg-soft focus-visible:outline-offset-[-2px] ${current ? "bg-select" : ""} ${pale ? "text-muted" : ""}`}
      onClick={onOpen}
      onKeyDown={(event) => {
        if (onArrow(event.key)) event.preventDefault();
      }}
    >
      <span aria-hidden className={pale ? "" : TONE[state]}>
        {GLYPH[state]}
      </span>
      <span className={state === "none" && !pale ? TONE.none : ""}>{WORD[state]}</span>
      <NotSaved brief of={draftsOf(cell)} />
      {cell.codes.length > 1 && (
        <span className="font-mono text-[11px] text-muted">×{cell.codes.length}</span>
      )}
    </button>
  );
}

/** The heading, which stays above the lines. */
function GridHead({ width, tracks, columns }: { width: number; tracks: VirtualItem[]; columns: Column[] }) {
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="sticky top-0 z-20 border-b border-ink bg-paper text-[13.5px] text-muted"
      style={{ height: LINE, width }}
    >
      <div
        role="columnheader"
        className="sticky left-0 z-10 inline-flex h-full items-center bg-paper pr-3"
        style={{ width: NAME }}
      >
        Function
      </div>
      {tracks.map((track) => (
        <div
          key={track.key}
          role="columnheader"
          aria-colindex={track.index + 2}
          title={columns[track.index]?.title}
          className="absolute top-0 flex h-full flex-col justify-center overflow-hidden px-2 leading-tight"
          style={{ left: track.start, width: COLUMN }}
        >
          <span className="truncate">{columns[track.index]?.device.name}</span>
        </div>
      ))}
    </div>
  );
}

/** The cells of one line that are seen. */
function RowCells({
  row,
  at,
  rows,
  tracks,
  selected,
  dim,
  onOpen,
  focus,
}: {
  row: Row;
  at: number;
  rows: Row[];
  tracks: VirtualItem[];
  selected: Cell | undefined;
  dim: (cell: Cell) => boolean;
  onOpen: (cell: Cell) => void;
  focus: (row: number, right: number) => void;
}) {
  return (
    <>
      {tracks.map((track) => {
        const cell = row.cells[track.index];
        return (
          <div
            key={track.key}
            role="gridcell"
            aria-colindex={track.index + 2}
            className="absolute top-0 h-full"
            style={{ left: track.start, width: COLUMN }}
          >
            {cell && (
              <CellButton
                cell={cell}
                at={`${at},${track.index}`}
                current={selected !== undefined && same(cell, selected)}
                pale={dim(cell)}
                onOpen={() => onOpen(cell)}
                onArrow={(arrow) => {
                  const to = step(rows, [at, track.index], arrow);
                  if (to) focus(...to);
                  return to !== undefined;
                }}
              />
            )}
          </div>
        );
      })}
    </>
  );
}

/** Devices side by side on a page. */
const ON_PAPER = 5;

/** All of it on paper: so many devices side by side, one table below the other. */
function PaperTable({ rows, columns }: { rows: Row[]; columns: Column[] }) {
  const parts = Array.from({ length: Math.ceil(columns.length / ON_PAPER) }, (_, at) => at * ON_PAPER);
  return parts.map((first) => (
    <table key={first} className="mb-4 w-full border-collapse">
      <thead>
        <tr className="border-b border-ink">
          <th scope="col">Function</th>
          {columns.slice(first, first + ON_PAPER).map((column) => (
            <th key={column.device.id} scope="col">
              {column.device.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows
          .filter((row) => row.cells.slice(first, first + ON_PAPER).some(Boolean))
          .map((row) => (
            <tr key={row.name} className="border-b border-rule">
              <th scope="row">{row.name}</th>
              {columns.slice(first, first + ON_PAPER).map((column, at) => {
                const cell = row.cells[first + at];
                return <td key={column.device.id}>{cell ? WORD[stateOf(cell)] : ""}</td>;
              })}
            </tr>
          ))}
      </tbody>
    </table>
  ));
}
