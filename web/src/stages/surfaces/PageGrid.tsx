import { surfaceRule } from "../../api/rules";
import { useRef, useState } from "react";
import type { Surface, SurfaceKey, SurfacePage } from "../../api/types";
import { useRoom } from "../../shell/context";
import { pictureUrl } from "./pictures";
import { useMeant } from "./api";
import { cellOf, GAP_MM, moved, neighbour } from "./surface";

/** CSS millimetres: 96 px are an inch of 25.4 mm. */
const PX_PER_MM = 96 / 25.4;

const ARROWS = { ArrowUp: "up", ArrowDown: "down", ArrowLeft: "left", ArrowRight: "right" } as const;
const STEPS = { up: [0, -1], down: [0, 1], left: [-1, 0], right: [1, 0] } as const;

/** A page at true size on its grid. Keys are dragged, or moved with Shift and the arrows. */
export function PageGrid({
  surface,
  page,
  scale,
  chosen,
  activity,
  onChoose,
  onMove,
  onRemove,
}: {
  surface: Surface;
  page: SurfacePage;
  scale: number;
  chosen: string | undefined;
  activity: string | undefined;
  onChoose: (key: string) => void;
  onMove: (page: SurfacePage) => void;
  onRemove: (key: SurfaceKey) => void;
}) {
  const [cellWide, cellHigh] = cellOf(surface);
  const meant = useMeant(surface.id, activity);
  const grid = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<{ key: string; x: number; y: number; dx: number; dy: number }>();
  const long = Math.max(surface.rows, ...page.keys.map((key) => key.row + (key.tall ?? 1)));
  const unit = PX_PER_MM * scale;
  const px = (mm: number) => `${(mm * unit).toFixed(1)}px`;
  const focus = (id: string) => grid.current?.querySelector<HTMLElement>(`[data-key="${id}"]`)?.focus();
  const tabbed = page.keys.some((key) => key.id === chosen) ? chosen : page.keys[0]?.id;
  const steps = (drag: { dx: number; dy: number }) =>
    [Math.round(drag.dx / (cellWide * unit)), Math.round(drag.dy / (cellHigh * unit))] as const;
  const onKeyDown = (event: React.KeyboardEvent, key: SurfaceKey) => {
    const direction = ARROWS[event.key as keyof typeof ARROWS] as
      (typeof ARROWS)[keyof typeof ARROWS] | undefined;
    if (direction && event.shiftKey) {
      event.preventDefault();
      const [x, y] = STEPS[direction];
      const next = moved(surface, page, key, key.column + x, key.row + y);
      if (next) onMove(next);
    } else if (direction) {
      event.preventDefault();
      const next = neighbour(page.keys, key, direction);
      if (next) focus(next.id);
    } else if (event.key === "Delete") {
      onRemove(key);
    }
  };
  return (
    <div
      ref={grid}
      role="group"
      aria-label={`${page.name}, ${surface.columns} columns. Arrows move between keys, Shift and arrows move a key, Enter opens it.`}
      data-testid="page-grid"
      className="relative border border-edge bg-soft"
      style={{
        width: px(cellWide * surface.columns),
        height: px(cellHigh * long),
        backgroundImage:
          "linear-gradient(var(--rule) 1px, transparent 1px), linear-gradient(90deg, var(--rule) 1px, transparent 1px)",
        backgroundSize: `${px(cellWide)} ${px(cellHigh)}`,
      }}
    >
      {surfaceRule(surface.kind).glass && long > surface.rows && (
        <div
          className="absolute right-0 left-0 border-t-2 border-dashed border-second text-right text-[11px] text-second"
          style={{ top: px(cellHigh * surface.rows) }}
        >
          below: scrolled to
        </div>
      )}
      {page.keys.map((key) => {
        const isDragged = drag?.key === key.id;
        const idle =
          (key.bindings ?? []).length === 0 ||
          (activity && meant && !meant.get(key.id)?.tap && !meant.get(key.id)?.hold);
        const plain = !key.tint;
        return (
          <button
            key={key.id}
            type="button"
            data-key={key.id}
            tabIndex={key.id === tabbed ? 0 : -1}
            aria-pressed={key.id === chosen}
            className={`absolute flex touch-none items-center justify-center overflow-hidden rounded-[3px] border px-0.5 text-center leading-tight select-none ${key.id === chosen ? "z-10 border-2 border-accent" : "border-edge"} ${plain ? "bg-paper" : ""} ${plain && idle ? "border-dashed text-muted" : ""} ${isDragged ? "z-20 opacity-80" : ""}`}
            style={{
              left: px(key.column * cellWide + GAP_MM / 2),
              top: px(key.row * cellHigh + GAP_MM / 2),
              width: px((key.wide ?? 1) * cellWide - GAP_MM),
              height: px((key.tall ?? 1) * cellHigh - GAP_MM),
              fontSize: `${Math.min(13, Math.max(9.5, cellWide * unit * 0.2))}px`,
              transform: isDragged ? `translate(${drag.dx}px, ${drag.dy}px)` : undefined,
              ...(key.tint ? { color: key.tint.ink, background: key.tint.ground } : {}),
            }}
            onClick={() => onChoose(key.id)}
            onKeyDown={(event) => onKeyDown(event, key)}
            onPointerDown={(event) => {
              if (event.button !== 0) return;
              event.currentTarget.setPointerCapture(event.pointerId);
              setDrag({ key: key.id, x: event.clientX, y: event.clientY, dx: 0, dy: 0 });
            }}
            onPointerMove={(event) => {
              if (isDragged) setDrag({ ...drag, dx: event.clientX - drag.x, dy: event.clientY - drag.y });
            }}
            onPointerCancel={() => setDrag(undefined)}
            onPointerUp={() => {
              if (!isDragged) return;
              const [x, y] = steps(drag);
              setDrag(undefined);
              const next = x || y ? moved(surface, page, key, key.column + x, key.row + y) : undefined;
              if (next) onMove(next);
            }}
          >
            <KeyFace own={key} />
          </button>
        );
      })}
    </div>
  );
}

/** What is on the key: its picture or its label. */
function KeyFace({ own }: { own: SurfaceKey }) {
  const { house } = useRoom();
  return (
    <>
      {own.picture ? (
        <img
          src={pictureUrl(house.house.id, own.picture)}
          alt={own.label}
          className="max-h-full max-w-full"
          draggable={false}
        />
      ) : (
        own.label
      )}
      {own.by_hand && (
        <span aria-hidden className="absolute top-0 right-0.5 text-[9px] text-second" title="made by hand">
          ✎
        </span>
      )}
    </>
  );
}
