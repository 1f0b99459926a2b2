import type { FloorPlan, Placed, ReachField, Three } from "../../../api/types";

/** A point of the plan, in mm. */
export type Point = readonly [number, number];

/** Three lengths of which one is another. */
export const changed = (own: Three, axis: number, mm: number): Three =>
  own.map((value, one) => (one === axis ? mm : value)) as Three;

/** How near a wall something snaps to it, in mm. */
const SNAP_MM = 80;

/** How large a thing is on the plan, along x and y, in mm: turned by a quarter where it looks across the room. */
export function footprint(own: Pick<Placed, "size_mm" | "azimuth_deg">): Point {
  const [wide, deep] = own.size_mm;
  const along = Math.abs(Math.cos((own.azimuth_deg * Math.PI) / 180)) >= Math.SQRT1_2;
  return along ? [deep, wide] : [wide, deep];
}

/** Where something lands that is put at a point: inside the room, and at a wall where it is near one. */
export function landed(floor: FloorPlan, size: Point, at: Point): Point {
  const one = (value: number, length: number, room: number) => {
    const half = Math.min(length, room) / 2;
    const kept = Math.min(Math.max(value, half), room - half);
    if (kept - half < SNAP_MM) return half;
    if (room - half - kept < SNAP_MM) return room - half;
    return kept;
  };
  const [length, width] = floor.size_mm;
  return [Math.round(one(at[0], size[0], length)), Math.round(one(at[1], size[1], width))];
}

/** The tip of an arrow of a length, in the direction of an azimuth. */
export function tip(at: Point, azimuthDeg: number, length: number): Point {
  const turned = (azimuthDeg * Math.PI) / 180;
  return [at[0] + Math.cos(turned) * length, at[1] + Math.sin(turned) * length];
}

/** A box of a label on the plan. */
export interface LabelBox {
  x: number;
  y: number;
  width: number;
  height: number;
}

const meet = (a: LabelBox, b: LabelBox) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/**
 * Where the names of things stand: below, above, right or left of each, or some lines away, whichever meets no other name and no
 * other thing, and inside the drawing. `font` is the height of a line, in mm.
 */
export function labels(
  things: readonly { at: Point; size: Point; text: string }[],
  font: number,
  drawing: LabelBox,
): LabelBox[] {
  const cases = things.map(({ at, size }) => ({
    x: at[0] - size[0] / 2,
    y: at[1] - size[1] / 2,
    width: size[0],
    height: size[1],
  }));
  const taken: LabelBox[] = [];
  return things.map(({ at, size, text }, index) => {
    const width = text.length * font * 0.52;
    const box = (x: number, y: number): LabelBox => ({
      x: Math.min(Math.max(x, drawing.x), drawing.x + drawing.width - width),
      y,
      width,
      height: font,
    });
    const [left, above] = [at[0] - size[0] / 2, at[1] - size[1] / 2];
    const tries = [
      box(left, above + size[1] + font * 0.25),
      box(left, above - font * 1.25),
      box(left + size[0] + font * 0.4, at[1] - font / 2),
      box(left - width - font * 0.4, at[1] - font / 2),
      // In a crowd a name stands some lines further from its thing.
      ...[1, 2, 3, 4, 5].flatMap((line) => [
        box(left, above + size[1] + font * (0.25 + 1.1 * line)),
        box(left, above - font * (1.25 + 1.1 * line)),
      ]),
    ];
    const free = tries.find(
      (one) =>
        one.y >= drawing.y &&
        one.y + font <= drawing.y + drawing.height &&
        !taken.some((other) => meet(one, other)) &&
        !cases.some((other, which) => which !== index && meet(one, other)),
    );
    const own = free ?? box(left, above + size[1] + font * 0.25);
    taken.push(own);
    return own;
  });
}

/** The margin of a field at a point of the plan, in dB; none outside, and none in the dark. */
export function marginAt(field: ReachField, [x, y]: Point): number | undefined {
  const step = field.step_m * 1000;
  const [column, row] = [Math.floor(x / step), Math.floor(y / step)];
  if (column < 0 || row < 0 || column >= field.columns || row >= field.rows) return undefined;
  const tenths = field.tenths_db[row * field.columns + column];
  return tenths === undefined || tenths < -900 ? undefined : tenths / 10;
}

/** The height of a line of text in a drawing so long, in mm: about 12 px where it is 460 px wide. */
export const fontOf = (length: number) => (length + 520) / 37;

/** A free place for the next thing: along the lower wall, one beside the other. */
export function freePlace(floor: FloorPlan, placed: readonly Placed[], size: Point): Point {
  const [length, width] = floor.size_mm;
  for (let y = width - size[1] / 2 - 100; y > size[1] / 2; y -= size[1] + 100) {
    for (let x = size[0] / 2 + 100; x < length - size[0] / 2; x += 150) {
      const meets = placed.some((other) => {
        const [w, d] = footprint(other);
        return (
          Math.abs(other.at_mm[0] - x) < (w + size[0]) / 2 && Math.abs(other.at_mm[1] - y) < (d + size[1]) / 2
        );
      });
      if (!meets) return [Math.round(x), Math.round(y)];
    }
  }
  return [length / 2, width / 2];
}

/** A length as it is written: metres, or feet and inches. */
export function lengthText(mm: number, feet: boolean): string {
  if (!feet) return `${(mm / 1000).toFixed(2)} m`;
  const inches = Math.round(mm / 25.4);
  const sign = inches < 0 ? "−" : "";
  return `${sign}${Math.floor(Math.abs(inches) / 12)} ft ${Math.abs(inches) % 12} in`;
}

/** Reads “4.2”, “4,2 m”, “420 cm”, “13 ft 9 in” or “13'9"” as mm; none where it is no length. A bare number is in metres, or in feet. */
export function lengthOf(text: string, feet: boolean): number | undefined {
  const clean = text.trim().toLowerCase().replace(",", ".").replace("−", "-");
  const imperial = /^(-?\d+(?:\.\d+)?)\s*(?:ft|')\s*(?:(\d+(?:\.\d+)?)\s*(?:in|")?)?$/.exec(clean);
  if (imperial) {
    const whole = Number(imperial[1]);
    const inches = Number(imperial[2] ?? 0);
    return Math.round((Math.abs(whole) * 12 + inches) * 25.4 * (whole < 0 ? -1 : 1));
  }
  const metric = /^(-?\d+(?:\.\d+)?)\s*(mm|cm|m|in)?$/.exec(clean);
  if (!metric) return undefined;
  const unit = { mm: 1, cm: 10, m: 1000, in: 25.4 }[metric[2] ?? ""] ?? (feet ? 304.8 : 1000);
  return Math.round(Number(metric[1]) * unit);
}
