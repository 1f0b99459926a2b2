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

/** Is it light, or what moves: what stands below everything else? */
function isLater(key: SurfaceKey): boolean {
  return key.role != null && LATER.includes(key.role.is);
}

/** The keys above the light of a page, and those below it, which begin a grid of their own. */
export function aroundLight(keys: SurfaceKey[]): [SurfaceKey[], SurfaceKey[]] {
  const first = Math.min(...keys.filter(isLater).map((key) => key.row));
  // Where a hand has put something else below, the page stays as it is.
  if (keys.some((key) => !isLater(key) && key.row > first)) return [keys, []];
  const below = keys.filter((key) => isLater(key) && key.row >= first);
  return [keys.filter((key) => !below.includes(key)), below.map((key) => ({ ...key, row: key.row - first }))];
}
