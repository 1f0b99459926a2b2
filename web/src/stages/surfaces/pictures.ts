import { choose, keptEdits, keptUrl, type Kept } from "../../api/chosen";
import { sendFile } from "../../api/files";
import { putOver } from "../../api/entities";
import type { Edit, HouseView, Surface } from "../../api/types";

/** The largest picture of a key, in bytes. */
const PICTURE_MAX = 60_000;

export { keptUrl as pictureUrl };

/** Reads a picture from a file: its id, which says what is in it. */
export async function choosePicture(file: File): Promise<string> {
  if (file.size > PICTURE_MAX) {
    throw new Error("A picture is a PNG, JPEG or WebP file of up to 60 kB. Make it smaller.");
  }
  const picture = await sendFile<Kept>("/api/pictures", file);
  choose(picture);
  return picture.id;
}

/** The edits that save a surface: the pictures that it shows and the house does not have yet, then the surface. */
export function surfaceEdits(house: HouseView, surface: Surface, room: string): Edit[] {
  const shown = (surface.pages ?? []).flatMap((page) => page.keys).map((key) => key.picture);
  return [...keptEdits(house, shown), putOver(house, { entity: "surface", value: { ...surface, room } })];
}
