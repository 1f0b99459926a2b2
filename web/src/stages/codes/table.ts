import type { CodeLine, Device, DeviceFunction, HouseView } from "../../api/types";

/** One cell of the table: a function of a device, and its code if there is one. */
export interface Cell {
  device: Device;
  fn: DeviceFunction;
  code: CodeLine | undefined;
}

/** One line of the table: everything of one name, device by device. */
export interface Row {
  name: string;
  cells: (Cell | undefined)[];
}

/** How far a code is. */
export type CodeState = "none" | "decoded" | "raw";

export function stateOf(cell: Cell): CodeState {
  if (!cell.code) return "none";
  return cell.code.decoded ? "decoded" : "raw";
}

/** The functions of all devices as lines, in the order in which the devices have them. */
export function rowsOf(house: HouseView, devices: Device[]): Row[] {
  const codes = new Map(house.codes.map((code) => [code.device + code.function, code]));
  const rows = new Map<string, Row>();
  devices.forEach((device, column) => {
    const profile = house.profiles.find((known) => known.id === device.profile);
    for (const fn of profile?.functions ?? []) {
      const key = fn.name.toLowerCase();
      const row: Row = rows.get(key) ?? { name: fn.name, cells: devices.map(() => undefined) };
      row.cells[column] = { device, fn, code: codes.get(device.id + fn.id) };
      rows.set(key, row);
    }
  });
  return [...rows.values()];
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
