import type {
  Binding,
  Does,
  HouseView,
  KeyLit,
  Room,
  Surface,
  SurfaceKey,
  SurfaceKind,
  SurfacePage,
} from "../../api/types";
import { RULES, surfaceRule } from "../../api/rules";
import { loudnessWords } from "../../ui/Loudness";
import { deviceName, devicesServing, functionName, profileOf } from "../../shell/context";
import type { Option } from "../../ui/Inline";

/** What stays free between two keys, in mm. */
export const GAP_MM = RULES.key_gap_mm;

/** How wide and high one cell of the grid is, in mm. */
export function cellOf(surface: Surface): [number, number] {
  const { sheets } = surfaceRule(surface.kind);
  return [surface.width_mm / sheets / surface.columns, surface.height_mm / surface.rows];
}

/** A surface of a kind, before it is laid out. */
export function blank(kind: SurfaceKind, taken: string[]): Surface {
  const { name, width_mm, height_mm, columns, rows, letter_tenths_mm } = surfaceRule(kind);
  let own = name;
  for (let number = 2; taken.includes(own); number += 1) own = `${name} ${number}`;
  return {
    id: crypto.randomUUID(),
    name: own,
    kind,
    width_mm,
    height_mm,
    columns,
    rows,
    device: null,
    pages: [],
    may: null,
    trial: null,
    letter_tenths_mm,
  };
}

/** A key that does nothing yet, in the first free cell. */
export function freshKey(surface: Surface, page: SurfacePage): SurfaceKey {
  const at = freeCell(surface, page.keys) ?? [0, surface.rows];
  return {
    id: crypto.randomUUID(),
    role: null,
    label: "New key",
    picture: null,
    column: at[0],
    row: at[1],
    wide: 1,
    tall: 1,
    bindings: [],
    lit: null,
    sends: null,
    tint: null,
    by_hand: true,
  };
}

/** Do two keys share a cell? */
export function covers(a: SurfaceKey, b: SurfaceKey): boolean {
  const meets = (x: number, long: number, y: number, other: number) => x < y + other && y < x + long;
  return meets(a.column, a.wide ?? 1, b.column, b.wide ?? 1) && meets(a.row, a.tall ?? 1, b.row, b.tall ?? 1);
}

/** The first cell that no key takes. */
export function freeCell(surface: Surface, keys: SurfaceKey[]): [number, number] | undefined {
  const last = surfaceRule(surface.kind).glass ? 60 : surface.rows;
  for (let row = 0; row < last; row += 1)
    for (let column = 0; column < surface.columns; column += 1) {
      const taken = keys.some(
        (key) =>
          key.column <= column &&
          column < key.column + (key.wide ?? 1) &&
          key.row <= row &&
          row < key.row + (key.tall ?? 1),
      );
      if (!taken) return [column, row];
    }
  return undefined;
}

/** A key in another place, where that is on the grid and free; otherwise none. */
export function moved(
  surface: Surface,
  page: SurfacePage,
  key: SurfaceKey,
  column: number,
  row: number,
): SurfacePage | undefined {
  if (column < 0 || row < 0 || column + (key.wide ?? 1) > surface.columns) return undefined;
  if (!surfaceRule(surface.kind).glass && row + (key.tall ?? 1) > surface.rows) return undefined;
  const next = { ...key, column, row, by_hand: true };
  if (page.keys.some((other) => other.id !== key.id && covers(other, next))) return undefined;
  return { ...page, keys: page.keys.map((known) => (known.id === key.id ? next : known)) };
}

/** The page without the rows that no key is in. Keys that move so are made by hand. */
export function closedUp(page: SurfacePage): SurfacePage {
  const used = new Set(
    page.keys.flatMap((key) => Array.from({ length: key.tall ?? 1 }, (_, at) => key.row + at)),
  );
  const rows = [...used].sort((a, b) => a - b);
  return {
    ...page,
    keys: page.keys.map((key) => {
      const row = rows.indexOf(key.row);
      return row === key.row ? key : { ...key, row, by_hand: true };
    }),
  };
}

/** The page without a key; what would be generated again is remembered as not wanted. */
export function without(page: SurfacePage, key: SurfaceKey): SurfacePage {
  const gone = key.role ? [...(page.without ?? []), key.role] : page.without;
  return { ...page, keys: page.keys.filter((known) => known.id !== key.id), without: gone ?? [] };
}

/** The nearest key in a direction, for the arrow keys. */
export function neighbour(
  keys: SurfaceKey[],
  from: SurfaceKey,
  direction: "up" | "down" | "left" | "right",
): SurfaceKey | undefined {
  const middle = (key: SurfaceKey) =>
    [key.column + (key.wide ?? 1) / 2, key.row + (key.tall ?? 1) / 2] as const;
  const [x, y] = middle(from);
  const far = (key: SurfaceKey) => {
    const [u, v] = middle(key);
    const [along, aside] =
      direction === "up"
        ? [y - v, u - x]
        : direction === "down"
          ? [v - y, u - x]
          : direction === "left"
            ? [x - u, v - y]
            : [u - x, v - y];
    // What lies more to the side than ahead is another direction.
    return along > 0.1 && Math.abs(aside) <= 2 * along ? along + Math.abs(aside) * 3 : Infinity;
  };
  return keys.filter((key) => key.id !== from.id && far(key) < Infinity).sort((a, b) => far(a) - far(b))[0];
}

export const GESTURES: readonly (readonly [NonNullable<Binding["gesture"]>, string])[] = [
  ["tap", "tapped"],
  ["double-tap", "tapped twice"],
  ["hold", "held"],
  ["release", "let go after a hold"],
];

export const HELDS: readonly (readonly [NonNullable<Binding["held"]>, string])[] = [
  ["once", "once"],
  ["repeats", "again and again while held"],
  ["passes", "held as long as the key"],
];

export const DOES: readonly (readonly [Does["does"], string])[] = [
  ["activity", "starts an activity"],
  ["room-off", "finishes the room"],
  ["command", "sends a command"],
  ["volume", "louder or softer"],
  ["jump", "jumps in what plays"],
  ["mute", "silent, and back"],
  ["look", "calls a look"],
  ["switch", "sets a mode switch"],
  ["app", "opens an app or a channel"],
  ["favourite", "a favourite"],
  ["power", "switches a device on or off"],
  ["page", "turns to a page"],
  ["before", "back to the activity before"],
  ["stop-all", "stops everything"],
  ["house-rest", "puts the whole house to rest"],
];

export const LITS: readonly (readonly [KeyLit["when"] | "never", string])[] = [
  ["never", "never"],
  ["activity", "in an activity"],
  ["off", "while the room is off"],
  ["on", "while a device is on"],
  ["input", "by the input of a device"],
  ["app", "by what a source runs"],
  ["mode", "by a setting"],
  ["switch", "by a mode switch"],
  ["look", "while a look stands"],
  ["level", "while a zone is bright"],
  ["muted", "while the sound is off"],
];

const own = (house: HouseView, room: string): Room | undefined =>
  house.rooms.find((known) => known.id === room);

/** Devices of the room and what they have, as choices. */
export function choices(house: HouseView, room: string) {
  const here = devicesServing(house, room);
  const lighting = own(house, room)?.lighting;
  const named = (all: { id: string; name: string }[] | undefined): Option[] =>
    (all ?? []).map((known) => [known.id, known.name]);
  const profile = (id: string) => {
    const device = here.find((known) => known.id === id);
    return device && profileOf(house, device);
  };
  const activities = house.activities.filter((known) => known.room === room);
  return {
    devices: (test: (profile: ReturnType<typeof profileOf>) => boolean = () => true): Option[] =>
      here.filter((device) => test(profileOf(house, device))).map((device) => [device.id, device.name]),
    functions: (id: string): Option[] => named(profile(id)?.functions),
    inputs: (id: string): Option[] => named(profile(id)?.inputs),
    apps: (id: string): Option[] => (profile(id)?.apps ?? []).map((app) => [app.name, app.name]),
    modes: (id: string): Option[] =>
      (profile(id)?.modes ?? []).flatMap((mode) =>
        mode.values.map((value): Option => [`${mode.name}\n${value.name}`, `${mode.name}: ${value.name}`]),
      ),
    activities: named(activities),
    favourites: [
      ...new Set(activities.flatMap((known) => (known.extras?.favourites ?? []).map((one) => one.name))),
    ].map((name): Option => [name, name]),
    looks: named(lighting?.looks),
    switches: named(lighting?.switches),
    zones: named(lighting?.zones),
  };
}

/** Something of this kind, with what is there to begin with. */
export function firstDoes(house: HouseView, room: string, surface: Surface, kind: Does["does"]): Does {
  const known = choices(house, room);
  const first = (options: readonly Option[]) => options[0]?.[0] ?? "";
  const device = first(known.devices((profile) => profile.functions.length > 0));
  switch (kind) {
    case "activity":
      return { does: kind, activity: first(known.activities) };
    case "command":
      return { does: kind, device, function: first(known.functions(device)), times: 1 };
    case "volume":
      return { does: kind, device: null, steps: 1, unit: "steps" };
    case "jump":
      return { does: kind, device: null, seconds: -30 };
    case "look":
      return { does: kind, look: first(known.looks) };
    case "switch":
      return { does: kind, switch: first(known.switches), on: null };
    case "page":
      return { does: kind, page: surface.pages?.[0]?.id ?? "" };
    case "app": {
      const source = first(known.devices((profile) => (profile.apps ?? []).length > 0));
      return { does: kind, device: source, name: first(known.apps(source)) };
    }
    case "favourite":
      return { does: kind, name: first(known.favourites) };
    case "power":
      return { does: kind, device };
    default:
      return { does: kind };
  }
}

/** When a key is lit, with what is there to begin with. */
export function firstLit(house: HouseView, room: string, when: KeyLit["when"] | "never"): KeyLit | null {
  const known = choices(house, room);
  const first = (options: readonly Option[]) => options[0]?.[0] ?? "";
  const device = first(known.devices((profile) => profile.functions.length > 0));
  switch (when) {
    case "never":
      return null;
    case "activity":
      return { when, activity: first(known.activities) };
    case "on":
      return { when, device };
    case "input": {
      const shows = first(known.devices((profile) => profile.inputs.length > 0));
      return { when, device: shows, input: first(known.inputs(shows)) };
    }
    case "app": {
      const source = first(known.devices((profile) => (profile.apps ?? []).length > 0));
      return { when, device: source, name: first(known.apps(source)) };
    }
    case "mode": {
      const has = first(known.devices((profile) => (profile.modes ?? []).length > 0));
      const [mode = "", value = ""] = first(known.modes(has)).split("\n");
      return { when, device: has, mode, value };
    }
    case "switch":
      return { when, switch: first(known.switches) };
    case "look":
      return { when, look: first(known.looks) };
    case "level":
      return { when, zone: first(known.zones), above_percent: 0 };
    default:
      return { when };
  }
}

/** What something does, in words. */
export function doesWords(house: HouseView, room: string, surface: Surface, does: Does): string {
  const lighting = own(house, room)?.lighting;
  const name = (all: { id: string; name: string }[] | undefined, id: string) =>
    all?.find((known) => known.id === id)?.name ?? "something that is gone";
  switch (does.does) {
    case "activity":
      return name(house.activities, does.activity);
    case "room-off":
      return "Finish";
    case "stop-all":
      return "stops what runs and moves";
    case "before":
      return "the activity before";
    case "command": {
      const times = does.times && does.times > 1 ? ` ${does.times} times` : "";
      return `${deviceName(house, does.device)} “${functionName(house, does.device, does.function)}”${times}`;
    }
    case "volume": {
      const who = does.device ? deviceName(house, does.device) : "what sounds";
      return `${who} ${loudnessWords(does.steps, does.unit)}`;
    }
    case "jump":
      return `${does.device ? deviceName(house, does.device) : "what plays"} ${Math.abs(does.seconds)} s ${does.seconds < 0 ? "back" : "on"}`;
    case "house-rest":
      return "the whole house to rest";
    case "mute":
      return "silent, and back";
    case "look":
      return `look ${name(lighting?.looks, does.look)}`;
    case "switch":
      return `${name(lighting?.switches, does.switch)} ${does.on == null ? "on or off" : does.on ? "on" : "off"}`;
    case "page":
      return `page ${name(surface.pages, does.page)}`;
    case "app":
      return `${does.name} on ${deviceName(house, does.device)}`;
    case "favourite":
      return `favourite ${does.name}`;
    case "power":
      return `${deviceName(house, does.device)} on or off, by what is known`;
  }
}
