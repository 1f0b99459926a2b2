import { describe, expect, it } from "vitest";
import { keyOf, lightingOf, listEdits, patched, put, putOver, take, versionOf } from "./entities";
import type { Changed, Cue, Device, HouseView, PutEntity, Room, Surface } from "./types";

const cue = (id: string, position: number, off = false): Cue => ({
  id,
  position,
  moment: { at: "room-off" },
  provided: [],
  light: { does: "stays" },
  also: [],
  off,
});

const room = (id: string, position: number, cues: Cue[] = []): Room => ({
  id,
  name: id,
  position,
  lighting: { zones: [], looks: [], cues, switches: [], exit: null },
});

const device = (id: string, roomId: string, position: number): Device =>
  ({ id, room: roomId, position, name: id, profile: "p" }) as Device;

const house = (part: Partial<HouseView> = {}): HouseView => ({
  house: { id: "h", name: "House" },
  rooms: [room("hall", 0, [cue("c1", 0), cue("c2", 1)]), room("loft", 1)],
  profiles: [],
  devices: [device("d1", "hall", 0), device("d2", "loft", 0)],
  measurements: [],
  results: [],
  orders: [],
  placed: [],
  protocols: [],
  behaves: { d1: { serves: ["hall"], own: null }, d2: { serves: ["loft"], own: null } },
  connections: [],
  codes: [],
  code_sets: [],
  activities: [],
  versions: { h: 0, hall: 0, loft: 0, c1: 1, c2: 1, d1: 2, d2: 2, "light:hall": 4 },
  revision: 4,
  undo: null,
  redo: null,
  ...part,
});

const changed = (part: Partial<Changed>): Changed => ({
  house: "h",
  revision: 5,
  put: [],
  taken: [],
  behaves: {},
  undo: null,
  redo: null,
  ...part,
});

const is = (one: Record<string, unknown>) => one as unknown as PutEntity;

describe("the key of an entity", () => {
  it("is its id, and names the kind where there is one of it in a room", () => {
    expect(keyOf("cue", "c1")).toBe("c1");
    expect(keyOf("light", "hall")).toBe("light:hall");
    expect(versionOf(house(), "light", "hall")).toBe(4);
    expect(versionOf(house(), "light", "loft")).toBeUndefined();
  });

  it("gives an edit its base", () => {
    const light = { room: "hall", zones: [], looks: [], switches: [], exit: null };
    expect(putOver(house(), { entity: "light", value: light })).toMatchObject({ do: "put", base: 4 });
    expect(putOver(house(), { entity: "light", value: { ...light, room: "loft" } })).toMatchObject({
      base: null,
    });
    expect(take(house(), "cue", "c2")).toEqual({ do: "remove", kind: "cue", id: "c2", base: 1 });
    expect(put({ entity: "light", value: light }, undefined)).toMatchObject({ base: null });
  });
});

describe("a list that was changed", () => {
  const edits = (after: Cue[]) =>
    listEdits(
      house(),
      (own) => ({ entity: "cue", value: { ...own, room: "hall" } }),
      [cue("c1", 0), cue("c2", 1)],
      after,
    );

  it("puts only what differs, so that two people at different lines never meet", () => {
    expect(edits([cue("c1", 0), cue("c2", 1, true)])).toMatchObject([
      { do: "put", entity: { entity: "cue", value: { id: "c2", off: true } }, base: 1 },
    ]);
    expect(edits([cue("c1", 0), cue("c2", 1)])).toEqual([]);
  });

  it("takes away what is gone, and moves up what comes after it", () => {
    expect(edits([cue("c2", 1)])).toMatchObject([
      { do: "remove", kind: "cue", id: "c1" },
      { do: "put", entity: { value: { id: "c2", position: 0 } } },
    ]);
  });

  it("gives each its place, new ones too", () => {
    expect(edits([cue("c2", 1), cue("c1", 0), cue("c3", 7)])).toMatchObject([
      { entity: { value: { id: "c2", position: 0 } } },
      { entity: { value: { id: "c1", position: 1 } } },
      { entity: { value: { id: "c3", position: 2 } }, base: null },
    ]);
  });
});

describe("the house after a change", () => {
  it("has what was put, with its version, and the ends of the line of undo", () => {
    const step = { title: "Lantern", who: "Ana", at: "2026-01-01T00:00:00Z" };
    const next = patched(
      house(),
      changed({
        put: [is({ key: "d1", version: 5, entity: "device", value: device("d1", "loft", 3) })],
        undo: step,
      }),
    );
    expect(next.devices.map((own) => own.id)).toEqual(["d2", "d1"]);
    expect([next.versions["d1"], next.revision, next.undo]).toEqual([5, 5, step]);
    expect(house().devices[0]?.room).toBe("hall");
  });

  it("loses what was taken, and its version", () => {
    const next = patched(house(), changed({ taken: [{ key: "c1", kind: "cue", id: "c1" }] }));
    expect(lightingOf(next.rooms[0]).cues.map((own) => own.id)).toEqual(["c2"]);
    expect(next.versions["c1"]).toBeUndefined();
  });

  it("keeps the cues of a room whose light was put or emptied", () => {
    const value = {
      room: "hall",
      zones: [{ id: "z", name: "Front", device: "d1" }],
      looks: [],
      switches: [],
      exit: null,
    };
    const lit = patched(
      house(),
      changed({ put: [is({ key: "light:hall", version: 5, entity: "light", value })] }),
    );
    expect(lightingOf(lit.rooms[0])).toMatchObject({
      zones: [{ id: "z" }],
      cues: [{ id: "c1" }, { id: "c2" }],
    });
    const dark = patched(lit, changed({ taken: [{ key: "light:hall", kind: "light", id: "hall" }] }));
    expect(lightingOf(dark.rooms[0])).toMatchObject({ zones: [], cues: [{ id: "c1" }, { id: "c2" }] });
  });

  it("has a part that moved to another room in that room only, in its place", () => {
    const value = { ...cue("c1", 0), room: "loft" };
    const next = patched(house(), changed({ put: [is({ key: "c1", version: 5, entity: "cue", value })] }));
    expect(next.rooms.map((own) => lightingOf(own).cues.map((line) => line.id))).toEqual([["c2"], ["c1"]]);
    expect(lightingOf(next.rooms[1]).cues[0]).not.toHaveProperty("room");
  });

  it("has rooms by their place, and keeps what stands in a room that was renamed", () => {
    const value = { id: "hall", name: "Barn", position: 9, rack: false };
    const next = patched(house(), changed({ put: [is({ key: "hall", version: 5, entity: "room", value })] }));
    expect(next.rooms.map((own) => own.name)).toEqual(["loft", "Barn"]);
    expect(lightingOf(next.rooms[1]).cues).toHaveLength(2);
    expect(next.devices.map((own) => own.id)).toEqual(["d2", "d1"]);
  });

  it("has surfaces in their order", () => {
    const surface = (id: string, position: number) =>
      ({ id, position, name: id, room: "hall" }) as unknown as Surface;
    const puts = [surface("s2", 1), surface("s1", 0)].map((value) =>
      is({ key: value.id, version: 5, entity: "surface", value }),
    );
    const next = patched(house(), changed({ put: puts }));
    expect(next.rooms[0]?.surfaces?.map((own) => own.id)).toEqual(["s1", "s2"]);
  });

  it("takes a line of the table over that has no version of its own", () => {
    const line = { id: "k", device: "d1", preferred: true } as unknown as HouseView["codes"][number];
    const before = house({ codes: [{ ...line, preferred: false }], versions: { k: 3 } });
    const next = patched(
      before,
      changed({ put: [is({ key: null, version: 0, entity: "code", value: line })] }),
    );
    expect([next.codes[0]?.preferred, next.versions["k"]]).toEqual([true, 3]);
  });
});

it("how a device behaves and whom it serves is taken from the change, and forgotten with the device", () => {
  const next = patched(
    house(),
    changed({
      taken: [{ key: "d2", kind: "device", id: "d2" }],
      behaves: { d1: { serves: ["hall", "loft"], own: null } },
    }),
  );
  expect(next.behaves).toEqual({ d1: { serves: ["hall", "loft"], own: null } });
});
