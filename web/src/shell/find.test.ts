import { describe, expect, it } from "vitest";
import type { Device, HouseView, Profile, Room } from "../api/types";
import { everything, found } from "./find";

const room = (id: string, name: string, part: Partial<Room> = {}): Room =>
  ({ id, name, position: 0, ...part }) as Room;

const profile = {
  id: "p",
  maker: "Tarnbeck",
  model: "P2",
  kind: "display",
  functions: [{ id: "mute", name: "Mute" }],
};

const house = {
  house: { id: "h", name: "House" },
  rooms: [
    room("hall", "Hall"),
    room("loft", "Loft", {
      lighting: {
        zones: [{ id: "cove", name: "Cove" }],
        looks: [{ id: "dim", name: "Dimmed" }],
        switches: [{ id: "guests", name: "Guests" }],
        cues: [{ id: "c", moment: { at: "credits" } }],
      } as never,
      surfaces: [
        {
          id: "s",
          name: "Phone",
          pages: [
            {
              id: "pg",
              name: "Start",
              keys: [
                { id: "k", label: "Louder" },
                { id: "n", label: "" },
              ],
            },
          ],
        },
      ] as never,
      rehearsal: { stories: [{ id: "st", name: "Power cut" }] } as never,
    }),
  ],
  devices: [
    {
      id: "d",
      name: "Display",
      room: "loft",
      profile: "p",
      network: { ip: "192.0.2.17", mac: "00:00:5e:00:53:01" },
    },
  ] as Device[],
  behaves: { d: { serves: ["loft"], own: null } },
  profiles: [profile as unknown as Profile],
  activities: [{ id: "film", name: "Feature film", room: "loft" }],
} as unknown as HouseView;

const entries = everything(house);
const first = (asked: string, at = "hall") => found(entries, asked, at)[0];

describe("everything that has a name is found, in all rooms", () => {
  it.each([
    ["display", { kind: "Device", room: "loft", stage: "kit", select: { device: "d" } }],
    ["192.0.2.17", { kind: "Address", room: "loft", stage: "kit", select: { view: "addresses" } }],
    ["53:01", { kind: "Address" }],
    ["mute", { kind: "Code", room: "loft", stage: "codes", select: { device: "d", function: "mute" } }],
    ["tarnbeck", { kind: "Model", select: { view: "models" } }],
    ["feature", { kind: "Activity", room: "loft", stage: "sequences", select: { activity: "film" } }],
    ["credits", { kind: "Cue", room: "loft", stage: "cues", select: { cue: "c" } }],
    ["dimmed", { kind: "Look", room: "loft" }],
    ["cove", { kind: "Zone", room: "loft" }],
    ["guests", { kind: "Switch", room: "loft" }],
    ["phone", { kind: "Surface", room: "loft", select: { surface: "s" } }],
    ["louder", { kind: "Key", room: "loft", select: { surface: "s", page: "pg", key: "k" } }],
    ["power cut", { kind: "Story", room: "loft", stage: "rehearse" }],
    ["loft", { kind: "Room", room: "loft" }],
    ["switch matrix", { kind: "View", stage: "sequences", select: { view: "matrix" } }],
    ["import", { kind: "Command", stage: "codes", select: { tool: "import" } }],
    ["labels", { kind: "View", stage: "surfaces", select: { show: "labels" } }],
  ])("“%s”", (asked, expected) => {
    expect(first(asked)).toMatchObject(expected);
  });

  it("with every word of it in any order, and nothing where one is missing", () => {
    expect(first("loft mute display")).toMatchObject({ kind: "Code" });
    expect(found(entries, "mute elsewhere", "hall")).toEqual([]);
  });

  it("has an id of its own each, and no key without a label", () => {
    const ids = entries.map((entry) => entry.kind + entry.id);
    expect(new Set(ids).size).toBe(ids.length);
    expect(entries.some((entry) => entry.kind === "Key" && entry.name === "")).toBe(false);
  });

  it("shows what is in the present room before what is elsewhere, and no more than asked for", () => {
    const twice = [
      { id: "a", kind: "Device", name: "Screen", room: "loft", stage: "kit" },
      { id: "b", kind: "Device", name: "Screen", room: "hall", stage: "kit" },
    ];
    expect(found(twice, "screen", "hall").map((entry) => entry.id)).toEqual(["b", "a"]);
    expect(found(entries, "", "hall", 3)).toHaveLength(3);
  });
});
