import { useLayoutEffect, useState, type RefObject } from "react";
import type { Connection, Device } from "../../api/types";

const WIDTH = 72;

/** One cable as it is drawn: from the middle of one row to the middle of another. */
interface Drawn {
  id: string;
  d: string;
  lit: boolean;
  end: { y: number; down: boolean };
}

/** The cables, drawn in the gutter left of the rows; those of the lit path are inked. */
export function Cables({
  body,
  order,
  cables,
  lit,
  open,
}: {
  body: RefObject<HTMLTableSectionElement | null>;
  order: Device[];
  cables: Connection[];
  lit: Set<string>;
  open: string | undefined;
}) {
  const [rows, setRows] = useState<Record<string, number>>({});
  const [height, setHeight] = useState(0);
  useLayoutEffect(() => {
    const table = body.current;
    if (!table) return;
    const measure = () => {
      const top = table.parentElement?.getBoundingClientRect().top ?? 0;
      const next: Record<string, number> = {};
      for (const row of table.querySelectorAll<HTMLElement>("[data-device]")) {
        const box = row.getBoundingClientRect();
        next[row.dataset["device"] ?? ""] = box.top - top + Math.min(26, box.height / 2);
      }
      setRows(next);
      setHeight(table.getBoundingClientRect().bottom - top);
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(table);
    return () => observer.disconnect();
  }, [body, order, open]);

  const ends: Record<string, number> = {};
  const drawn: Drawn[] = cables.flatMap((cable) => {
    const from = rows[cable.from_device];
    const to = rows[cable.to_device];
    if (from === undefined || to === undefined) return [];
    // Cables that end in one row are set apart, and a longer one swings further out.
    const nth = ends[cable.to_device] ?? 0;
    ends[cable.to_device] = nth + 1;
    const span = Math.abs(
      order.findIndex((d) => d.id === cable.from_device) - order.findIndex((d) => d.id === cable.to_device),
    );
    const out = Math.max(6, WIDTH - 14 - span * 15);
    const y = to - 6 + nth * 9;
    const d = `M ${WIDTH - 8} ${from} C ${out - 12} ${from}, ${out - 12} ${y}, ${WIDTH - 12} ${y}`;
    return [{ id: cable.id, d, lit: lit.has(cable.id), end: { y, down: to > from } }];
  });
  return (
    <svg
      aria-hidden
      width={WIDTH}
      height={height}
      className="pointer-events-none absolute top-0 left-0 max-md:hidden"
      data-testid="cables"
    >
      {drawn
        .sort((a, b) => Number(a.lit) - Number(b.lit))
        .map((cable) => (
          <g key={cable.id} className={cable.lit ? "text-accent" : "text-edge"}>
            <path
              d={cable.d}
              fill="none"
              stroke="currentColor"
              strokeWidth={cable.lit ? 2.4 : 1.3}
              strokeDasharray={cable.lit ? undefined : "4 3"}
            />
            <path d={`M ${WIDTH - 14} ${cable.end.y - 4} l 7 4 l -7 4 z`} fill="currentColor" />
          </g>
        ))}
    </svg>
  );
}
