import { putOver } from "../../../api/entities";
import { useEdit } from "../../../api/queries";
import { floorOf } from "../../../api/space";
import type { FloorPlan, Placed } from "../../../api/types";
import { useRoom } from "../../../shell/context";

/** Changes the floor plan as it is when it is its turn. */
export type ChangeFloor = (change: (floor: FloorPlan) => FloorPlan) => void;

/** Changes where a device stands, as that is when it is its turn; what is not placed is left alone. */
export type ChangePlaced = (device: string, change: (own: Placed) => Placed) => void;

/** The lists of a floor plan that people edit line by line. */
type ListName = "seats" | "openings" | "cupboards" | "spots" | "lamps";

type Line<K extends ListName> = FloorPlan[K][number];

/** Saves changes of the plan, each made of what the one before it has saved. */
export function usePlanEdits() {
  const { house, room } = useRoom();
  const edit = useEdit(house.house.id);
  const changeFloor: ChangeFloor = (change) =>
    edit.mutate((now) => {
      const floor = floorOf(now, room);
      return floor ? [putOver(now, { entity: "floor", value: { ...change(floor), room } })] : [];
    });
  const changePlaced: ChangePlaced = (device, change) =>
    edit.mutate((now) => {
      const own = now.placed.find((one) => one.device === device) as Placed | undefined;
      return own ? [putOver(now, { entity: "placed", value: change(own) })] : [];
    });
  const place = (own: Placed) => edit.mutate((now) => [putOver(now, { entity: "placed", value: own })]);
  return { edit, changeFloor, changePlaced, place };
}

/** Changes one line of a list of the plan, takes it out, or adds one. */
export function listEditor<K extends ListName>(key: K, change: ChangeFloor) {
  const put = (lines: (known: Line<K>[]) => Line<K>[]) =>
    change((floor) => ({ ...floor, [key]: lines(floor[key] as Line<K>[]) }));
  return {
    set: (at: number, next: (own: Line<K>) => Line<K>) =>
      put((known) => known.map((own, one) => (one === at ? next(own) : own))),
    remove: (at: number) => put((known) => known.filter((_, one) => one !== at)),
    add: (own: Line<K>) => put((known) => [...known, own]),
  };
}
