import { putOver } from "./entities";
import type { Edit, Entity, HouseView } from "./types";

/** A picture of a key, or the sound of a chime. */
export type Kept = Extract<Entity, { entity: "picture" }>["value"];

const KEY = "chosen:";

/** What was chosen on this page: saved together with what shows or plays it, and kept over a reload until then. */
const chosen = new Map<string, Kept>();

/** Keeps what was chosen until it is saved. */
export function choose(own: Kept): void {
  chosen.set(own.id, own);
  try {
    localStorage.setItem(KEY + own.id, JSON.stringify(own));
  } catch {
    // A full store: then it lasts as long as the page.
  }
}

/** What was chosen and is not saved yet; none where the house has it, or nobody chose it here. */
export function chosenOne(id: string): Kept | undefined {
  const known = chosen.get(id);
  if (known) return known;
  const text = localStorage.getItem(KEY + id);
  if (!text) return undefined;
  const own = JSON.parse(text) as Kept;
  chosen.set(id, own);
  return own;
}

/** Where a picture or a sound is fetched from: this page's own memory until it is saved, the house after that. */
export function keptUrl(house: string, id: string): string {
  const own = chosenOne(id);
  return own ? `data:${own.media_type};base64,${own.bytes}` : `/api/houses/${house}/pictures/${id}`;
}

/** The edits that save what these ids stand for, as far as the house does not have it yet. */
export function keptEdits(house: HouseView, ids: Iterable<string | null | undefined>): Edit[] {
  const wanted = new Set([...ids].filter((id): id is string => Boolean(id)));
  return [...wanted].flatMap((id) => {
    if (house.versions[id] !== undefined) {
      localStorage.removeItem(KEY + id);
      return [];
    }
    const value = chosenOne(id);
    return value ? [putOver(house, { entity: "picture", value })] : [];
  });
}
