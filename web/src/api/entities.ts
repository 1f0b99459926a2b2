import type {
  Changed,
  Edit,
  Entity,
  EntityKind,
  HouseView,
  Lighting,
  PutEntity,
  Rehearsing,
  Room,
  TakenEntity,
} from "./types";

/** What there is one of in a room: known by the id of the room. */
const ONE_A_ROOM: ReadonlySet<EntityKind> = new Set<EntityKind>(["light", "voice", "plans", "floor"]);

/** The key of an entity in the versions of its house. */
export function keyOf(kind: EntityKind, id: string): string {
  return ONE_A_ROOM.has(kind) ? `${kind}:${id}` : id;
}

/** The id of an entity; that of its room, where there is one of it a room. */
export function idOf(entity: Entity): string {
  return "id" in entity.value ? entity.value.id : entity.value.room;
}

/** The version of an entity that is on the screen; undefined where there is none yet. */
export function versionOf(house: HouseView, kind: EntityKind, id: string): number | undefined {
  return house.versions[keyOf(kind, id)];
}

/** An edit that puts an entity in its place; `base` is the version that was seen, none for a new one. */
export function put(entity: Entity, base: number | undefined): Edit {
  return { do: "put", entity, base: base ?? null };
}

/** The same over the version that is on the screen. */
export function putOver(house: HouseView, entity: Entity): Edit {
  return put(entity, versionOf(house, entity.entity, idOf(entity)));
}

/** An edit that takes an entity away, as it is on the screen. */
export function take(house: HouseView, kind: EntityKind, id: string): Edit {
  return { do: "remove", kind, id, base: versionOf(house, kind, id) ?? 0 };
}

type InList = { id: string; position?: number };

/**
 * The edits that turn one list of a room into another: what is new or different is put, each in its place, and what is
 * gone is taken away. What stays as it is is not touched, so two people at different lines never meet.
 */
export function listEdits<T extends InList>(
  house: HouseView,
  entity: (own: T) => Entity,
  before: readonly T[],
  after: readonly T[],
): Edit[] {
  const known = new Map(before.map((own) => [own.id, own]));
  const kept = new Set(after.map((own) => own.id));
  const puts = after.flatMap((own, position) => {
    const placed = { ...own, position };
    return JSON.stringify(placed) === JSON.stringify(known.get(own.id))
      ? []
      : [putOver(house, entity(placed))];
  });
  const gone = before.filter((own) => !kept.has(own.id));
  const takes = gone.map((own) => take(house, entity(own).entity, own.id));
  return [...takes, ...puts];
}

/** The house after a change, patched from what the server said of it. */
export function patched(house: HouseView, changed: Changed): HouseView {
  const gone = new Set(changed.taken.map((one) => one.key));
  const versions = Object.fromEntries(Object.entries(house.versions).filter(([key]) => !gone.has(key)));
  let next = house;
  const behaves = Object.fromEntries(
    Object.entries({ ...house.behaves, ...changed.behaves }).filter(([id]) => !gone.has(id)),
  );
  for (const one of changed.taken) next = without(next, one);
  for (const one of changed.put) {
    if (one.key) versions[one.key] = one.version;
    next = withOne(next, one);
  }
  const { revision, undo, redo } = changed;
  return { ...sorted(next), behaves, versions, revision, undo: undo ?? null, redo: redo ?? null };
}

function replaced<T extends { id: string }>(list: readonly T[], own: T): T[] {
  const at = list.findIndex((known) => known.id === own.id);
  return at < 0 ? [...list, own] : list.map((known, index) => (index === at ? own : known));
}

function inRoom(house: HouseView, room: string, change: (room: Room) => Room): HouseView {
  return { ...house, rooms: house.rooms.map((known) => (known.id === room ? change(known) : known)) };
}

/** A thing without the room that it belongs to: as the room keeps it. */
function ownPart<T extends { room: string }>(value: T): Omit<T, "room"> {
  const own: Partial<T> = { ...value };
  delete own.room;
  return own as Omit<T, "room">;
}

/** A part that has moved to another room is in one room only. */
function leftElsewhere(house: HouseView, room: string, strip: (room: Room) => Room): HouseView {
  return { ...house, rooms: house.rooms.map((known) => (known.id === room ? known : strip(known))) };
}

function withOne(house: HouseView, one: PutEntity): HouseView {
  switch (one.entity) {
    case "house":
      return { ...house, house: one.value };
    case "room": {
      const { adoption, ...card } = one.value;
      const known = house.rooms.find((room) => room.id === card.id);
      const rehearsal = rehearsingOf(known);
      if (adoption) rehearsal.adoption = adoption;
      return { ...house, rooms: replaced(house.rooms, { ...known, ...card, rehearsal }) };
    }
    case "profile":
      return { ...house, profiles: replaced(house.profiles, one.value) };
    case "device":
      return { ...house, devices: replaced(house.devices, one.value) };
    case "connection":
      return { ...house, connections: replaced(house.connections, one.value) };
    case "code":
      return { ...house, codes: replaced(house.codes, one.value) };
    case "activity":
      return { ...house, activities: replaced(house.activities, one.value) };
    case "code-set":
      return { ...house, code_sets: replaced(house.code_sets, one.value) };
    case "picture":
      return house;
    case "measurement":
      return { ...house, measurements: byTime(replaced(house.measurements, one.value)) };
    case "result":
      return { ...house, results: replaced(house.results, one.value) };
    case "order":
      return { ...house, orders: replaced(house.orders, one.value) };
    case "protocol":
      return { ...house, protocols: replaced(house.protocols, one.value) };
    case "placed":
      return { ...house, placed: replaced(house.placed, one.value) };
    case "floor":
      return inRoom(house, one.value.room, (room) => ({ ...room, floor: ownPart(one.value) }));
    case "light": {
      const light = ownPart(one.value);
      return inRoom(house, one.value.room, (room) => ({
        ...room,
        lighting: { ...NO_LIGHT, ...light, cues: lightingOf(room).cues },
      }));
    }
    case "voice":
      return inRoom(house, one.value.room, (room) => ({ ...room, voice: ownPart(one.value) }));
    case "plans":
      return inRoom(house, one.value.room, (room) => ({ ...room, plans: ownPart(one.value) }));
    case "cue": {
      const cue = ownPart(one.value);
      const strip = (room: Room) => withoutCue(room, cue.id);
      return inRoom(leftElsewhere(house, one.value.room, strip), one.value.room, (room) => ({
        ...room,
        lighting: { ...lightingOf(room), cues: byPosition(replaced(lightingOf(room).cues, cue)) },
      }));
    }
    case "surface": {
      const surface = ownPart(one.value);
      const strip = (room: Room) => withoutSurface(room, surface.id);
      return inRoom(leftElsewhere(house, one.value.room, strip), one.value.room, (room) => ({
        ...room,
        surfaces: byPosition(replaced(room.surfaces ?? [], surface)),
      }));
    }
    case "story": {
      const story = ownPart(one.value);
      const strip = (room: Room) => withoutStory(room, story.id);
      return inRoom(leftElsewhere(house, one.value.room, strip), one.value.room, (room) => ({
        ...room,
        rehearsal: {
          ...rehearsingOf(room),
          stories: byPosition(replaced(rehearsingOf(room).stories, story)),
        },
      }));
    }
    case "accepted": {
      const accepted = ownPart(one.value);
      return inRoom(house, one.value.room, (room) => ({
        ...room,
        accepted: replaced(room.accepted ?? [], accepted),
      }));
    }
  }
}

const NO_LIGHT: Lighting = { zones: [], looks: [], cues: [], switches: [], exit: null };

/** The light of a room; none where nobody has put any. */
export function lightingOf(room: Room | undefined): Lighting {
  return { ...NO_LIGHT, ...room?.lighting };
}

/** How a room is rehearsed; as usual where nobody has changed anything. */
export function rehearsingOf(room: Room | undefined): Rehearsing {
  const usual = { complete: false, lost_polls: 0, switched_off: [], without: [] };
  return { stories: [], adoption: usual, ...room?.rehearsal };
}

const withoutCue = (room: Room, id: string): Room => ({
  ...room,
  lighting: { ...lightingOf(room), cues: lightingOf(room).cues.filter((cue) => cue.id !== id) },
});

const withoutSurface = (room: Room, id: string): Room => ({
  ...room,
  surfaces: (room.surfaces ?? []).filter((surface) => surface.id !== id),
});

const withoutStory = (room: Room, id: string): Room => ({
  ...room,
  rehearsal: {
    ...rehearsingOf(room),
    stories: rehearsingOf(room).stories.filter((story) => story.id !== id),
  },
});

function without(house: HouseView, { kind, id }: TakenEntity): HouseView {
  const others = <T extends { id: string }>(list: readonly T[]) => list.filter((known) => known.id !== id);
  const everywhere = (change: (room: Room) => Room): HouseView => ({
    ...house,
    rooms: house.rooms.map(change),
  });
  switch (kind) {
    case "house":
    case "picture":
      return house;
    case "room":
      return { ...house, rooms: others(house.rooms) };
    case "profile":
      return { ...house, profiles: others(house.profiles) };
    case "device":
      return { ...house, devices: others(house.devices) };
    case "connection":
      return { ...house, connections: others(house.connections) };
    case "code":
      return { ...house, codes: others(house.codes) };
    case "activity":
      return { ...house, activities: others(house.activities) };
    case "code-set":
      return { ...house, code_sets: others(house.code_sets) };
    case "measurement":
      return { ...house, measurements: others(house.measurements) };
    case "result":
      return { ...house, results: others(house.results) };
    case "order":
      return { ...house, orders: others(house.orders) };
    case "protocol":
      return { ...house, protocols: others(house.protocols) };
    case "placed":
      return { ...house, placed: others(house.placed) };
    case "floor":
      return inRoom(house, id, (room) => ({ ...room, floor: undefined }));
    case "light":
      return inRoom(house, id, (room) => ({
        ...room,
        lighting: { ...NO_LIGHT, cues: lightingOf(room).cues },
      }));
    case "voice":
      return inRoom(house, id, (room) => ({ ...room, voice: { names: [], synced: null } }));
    case "plans":
      return inRoom(house, id, (room) => ({ ...room, plans: undefined }));
    case "cue":
      return everywhere((room) => withoutCue(room, id));
    case "surface":
      return everywhere((room) => withoutSurface(room, id));
    case "story":
      return everywhere((room) => withoutStory(room, id));
    case "accepted":
      return everywhere((room) => ({ ...room, accepted: others(room.accepted ?? []) }));
  }
}

/** Readings in the order in which they were taken. */
function byTime<T extends { at: string }>(list: readonly T[]): T[] {
  return [...list].sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0));
}

function byPosition<T extends { position?: number }>(list: readonly T[]): T[] {
  return [...list].sort((a, b) => (a.position ?? 0) - (b.position ?? 0));
}

/** Rooms, devices and activities in their order, as the server gives them. */
function sorted(house: HouseView): HouseView {
  const byId = (a: { id: string }, b: { id: string }) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);
  const rooms = [...house.rooms].sort((a, b) => a.position - b.position || byId(a, b));
  const place = new Map(rooms.map((room, index) => [room.id, index]));
  const inOrder = <T extends { id: string; room: string; position: number }>(list: readonly T[]) =>
    [...list].sort(
      (a, b) =>
        (place.get(a.room) ?? -1) - (place.get(b.room) ?? -1) || a.position - b.position || byId(a, b),
    );
  return { ...house, rooms, devices: inOrder(house.devices), activities: inOrder(house.activities) };
}
