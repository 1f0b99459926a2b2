import type { LiveView, SurfaceKey, SurfacePage } from "../api/types";

/** Surfaces of glass: their pages close up, and what ends the room stands at the foot. */
const GLASS = ["phone", "folding-phone", "tablet", "browser"];

export function isGlass(view: LiveView): boolean {
  return GLASS.includes(view.surface.kind);
}

/** Does it end the room, or stop what moves? On glass such keys stand at the foot, where they never scroll away. */
function isFoot(key: SurfaceKey): boolean {
  return key.role?.is === "stop-all" || key.role?.is === "room-off";
}

/** The keys of a page as they are shown: on glass without those of the foot, and with empty rows closed up. */
export function shownKeys(page: SurfacePage, glass: boolean): SurfaceKey[] {
  if (!glass) return page.keys;
  const keys = page.keys.filter((key) => !isFoot(key));
  const used = new Set<number>();
  for (const key of keys) for (let at = 0; at < (key.tall ?? 1); at++) used.add(key.row + at);
  const rows = [...used].sort((a, b) => a - b);
  return keys.map((key) => ({ ...key, row: rows.indexOf(key.row) }));
}

/** The key that ends the room, wherever it stands on the surface. */
export function finishKey(view: LiveView): SurfaceKey | undefined {
  return (view.surface.pages ?? []).flatMap((page) => page.keys).find((key) => key.role?.is === "room-off");
}

/** The place between louder and softer, where nothing else stands there: the figure goes there. */
export function figurePlace(keys: SurfaceKey[]): { column: number; row: number } | undefined {
  const of = (name: string) => keys.find((key) => key.role?.is === "term" && key.role.name === name);
  const [up, down] = [of("Volume up"), of("Volume down")];
  if (!up || !down || up.column !== down.column || down.row !== up.row + 2) return undefined;
  const [column, row] = [up.column, up.row + 1];
  const covers = (key: SurfaceKey) =>
    key.column <= column &&
    column < key.column + (key.wide ?? 1) &&
    key.row <= row &&
    row < key.row + (key.tall ?? 1);
  return keys.some(covers) ? undefined : { column, row };
}

const LATER = ["look", "switch", "moves", "page", "favourite"];

/** Where light and what moves begins below everything else; the last row where nothing of it stands apart. */
export function lightRow(keys: SurfaceKey[]): number {
  const later = (key: SurfaceKey) => key.role != null && LATER.includes(key.role.is);
  const end = Math.max(0, ...keys.map((key) => key.row + (key.tall ?? 1)));
  const rest = keys.filter(later);
  if (rest.length === 0) return end;
  const first = Math.min(...rest.map((key) => key.row));
  return keys.some((key) => !later(key) && key.row + (key.tall ?? 1) > first) ? end : first;
}
