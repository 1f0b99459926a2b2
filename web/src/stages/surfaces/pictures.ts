import { putOver } from "../../api/entities";
import type { Edit, Entity, HouseView, Surface } from "../../api/types";

type Picture = Extract<Entity, { entity: "picture" }>["value"];

/** The largest picture of a key, in bytes. */
const PICTURE_MAX = 60_000;

/** Pictures that were chosen on this page: they are saved together with the surface whose key shows them. */
const chosen = new Map<string, Picture>();

/** Where a picture is shown from: this page’s own memory until it is saved, the house after that. */
export function pictureUrl(house: string, id: string): string {
  const own = chosen.get(id);
  return own ? `data:${own.media_type};base64,${own.bytes}` : `/api/houses/${house}/pictures/${id}`;
}

/** Reads a picture from a file: its id, which says what is in it. */
export async function choosePicture(file: File): Promise<string> {
  const wrong = "A picture is a PNG, JPEG or WebP file of up to 60 kB. Make it smaller.";
  if (file.size > PICTURE_MAX) throw new Error(wrong);
  const answer = await fetch("/api/pictures", { method: "POST", body: file });
  const named = (await answer.json()) as Picture | { detail: string };
  if (!("id" in named)) throw new Error(named.detail || wrong);
  chosen.set(named.id, named);
  return named.id;
}

/** The edits that save a surface: the pictures that it shows and the house does not have yet, then the surface. */
export function surfaceEdits(house: HouseView, surface: Surface, room: string): Edit[] {
  const shown = new Set((surface.pages ?? []).flatMap((page) => page.keys).map((key) => key.picture));
  const fresh = [...chosen.values()].filter(
    (picture) => shown.has(picture.id) && house.versions[picture.id] === undefined,
  );
  return [
    ...fresh.map((value) => putOver(house, { entity: "picture", value })),
    putOver(house, { entity: "surface", value: { ...surface, room } }),
  ];
}
