import type { CodeLine, CodeState, Device, DeviceFunction, HouseView } from "../../api/types";

/** One cell of the table: a function of a device, and its code if there is one. */
export interface Cell {
  device: Device;
  fn: DeviceFunction;
  /** The code that is sent. */
  code: CodeLine | undefined;
  /** Every code, at most one for each medium. */
  codes: CodeLine[];
}

/** One line of the table: everything of one name, device by device. */
export interface Row {
  name: string;
  cells: (Cell | undefined)[];
}

export function stateOf(cell: Cell): CodeState {
  return cell.code?.state ?? "none";
}

/** Which cells are of interest. */
export type Filter = "all" | "missing" | "untested" | "failed" | "opaque";

export const FILTERS: readonly (readonly [Filter, string])[] = [
  ["all", "everything"],
  ["missing", "what is missing"],
  ["untested", "what is untested"],
  ["failed", "what failed"],
  ["opaque", "what is opaque or raw"],
];

/** Does a cell belong to what is looked for? */
export function passes(cell: Cell, filter: Filter): boolean {
  const state = stateOf(cell);
  switch (filter) {
    case "all":
      return true;
    case "missing":
      return state === "none";
    case "untested":
      return state !== "none" && state !== "tested" && state !== "failed";
    case "failed":
      return state === "failed";
    case "opaque":
      return state === "opaque" || state === "captured";
  }
}

/** The functions of all devices as lines, in the order in which the devices have them. */
export function rowsOf(house: HouseView, devices: Device[]): Row[] {
  const codes = new Map<string, CodeLine[]>();
  for (const code of house.codes) {
    const key = code.device + code.function;
    const known = codes.get(key);
    if (known) known.push(code);
    else codes.set(key, [code]);
  }
  const profiles = new Map(house.profiles.map((profile) => [profile.id, profile]));
  const rows = new Map<string, Row>();
  devices.forEach((device, column) => {
    for (const fn of profiles.get(device.profile)?.functions ?? []) {
      const key = fn.name.toLowerCase();
      const row: Row = rows.get(key) ?? { name: fn.name, cells: devices.map(() => undefined) };
      const own = codes.get(device.id + fn.id) ?? [];
      row.cells[column] = { device, fn, code: own.find((code) => code.preferred) ?? own[0], codes: own };
      rows.set(key, row);
    }
  });
  return [...rows.values()];
}

/** The lines that hold something of interest, by name and by state. */
export function filtered(rows: Row[], filter: Filter, search: string): Row[] {
  const words = search.trim().toLowerCase();
  return rows.filter((row) => {
    const named = (cell: Cell) =>
      words === "" ||
      `${row.name} ${cell.device.name} ${cell.code?.summary ?? ""}`.toLowerCase().includes(words);
    return row.cells.some((cell) => cell && passes(cell, filter) && named(cell));
  });
}

/** The nearest cell from a place in a direction, over the gaps; undefined at the edge. */
export function step(rows: Row[], at: [number, number], key: string): [number, number] | undefined {
  const [down, right] = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1] }[
    key
  ] ?? [0, 0];
  if (down === 0 && right === 0) return undefined;
  let [row, column] = at;
  for (;;) {
    row += down ?? 0;
    column += right ?? 0;
    const line = rows[row];
    if (!line || column < 0 || column >= line.cells.length) return undefined;
    if (line.cells[column]) return [row, column];
  }
}

/** How a key is pressed, in words; nothing for a tap. */
export function pressText(fn: DeviceFunction): string {
  const press = fn.press;
  if (!press) return "";
  const times = ["", "", "twice", "three times"][press.presses] ?? `${press.presses} times`;
  const held = press.hold_ms > 0 ? `held for ${press.hold_ms / 1000} s` : "";
  return [times, held].filter(Boolean).join(", ");
}
