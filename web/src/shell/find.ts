import type { Device, HouseView, Room } from "../api/types";
import { MOMENTS } from "../stages/cues/lighting";
import { profileOf, roomName } from "./context";
import { match } from "./match";
import { PART_PARAM, PARTS, STAGES } from "./stages";

/** Something that can be found, and where it opens. */
export interface Entry {
  /** Unlike that of every other one. */
  id: string;
  /** What it is, in a word. */
  kind: string;
  name: string;
  /** What else it is known by: searched, and shown after the name. */
  also?: string;
  /** In which room it opens; in the present one where none is named. */
  room?: string;
  stage: string;
  select?: Record<string, string>;
}

/** The room in which a device is edited: the one where it serves, else where it stands. */
export function roomOf(house: HouseView, device: Device): string {
  return house.behaves[device.id]?.serves[0] ?? device.room;
}

/** Everything of the house that has a name, in all rooms. */
export function everything(house: HouseView): Entry[] {
  return [
    ...stages(),
    ...house.rooms.map((room): Entry => ({
      id: room.id,
      kind: "Room",
      name: room.name,
      room: room.id,
      stage: "kit",
    })),
    ...activities(house),
    ...house.devices.flatMap((device) => ofDevice(house, device)),
    ...house.profiles.map((model): Entry => ({
      id: model.id,
      kind: "Model",
      name: `${model.maker} ${model.model}`,
      stage: "kit",
      select: { view: "models" },
    })),
    ...house.rooms.flatMap(ofRoom),
  ];
}

function stages(): Entry[] {
  return STAGES.flatMap((stage): Entry[] => [
    { id: stage.id, kind: "Stage", name: stage.name, stage: stage.id },
    ...PARTS[stage.id].map(([value, name]): Entry => ({
      id: `${stage.id} ${value}`,
      kind: stage.id === "codes" ? "Command" : "View",
      name: name.replace(" …", ""),
      also: stage.name,
      stage: stage.id,
      select: { [PART_PARAM[stage.id]]: value },
    })),
  ]);
}

function activities(house: HouseView): Entry[] {
  return house.activities.map((activity) => ({
    id: activity.id,
    kind: "Activity",
    name: activity.name,
    also: roomName(house, activity.room),
    room: activity.room,
    stage: "sequences",
    select: { activity: activity.id },
  }));
}

function ofDevice(house: HouseView, device: Device): Entry[] {
  const room = roomOf(house, device);
  const where = roomName(house, room);
  const { ip, mac } = device.network ?? {};
  const address = [ip, mac].filter(Boolean).join(" ");
  const profile = profileOf(house, device);
  const found: Entry[] = [
    {
      id: device.id,
      kind: "Device",
      name: device.name,
      also: where,
      room,
      stage: "kit",
      select: { device: device.id },
    },
    {
      id: `${device.id} replace`,
      kind: "Command",
      name: `Replace ${device.name} by another model`,
      also: where,
      room,
      stage: "kit",
      select: { device: device.id, do: "replace" },
    },
  ];
  if (address) {
    found.push({
      id: `${device.id} address`,
      kind: "Address",
      name: address,
      also: `${device.name}, ${where}`,
      room,
      stage: "kit",
      select: { view: "addresses" },
    });
  }
  return [
    ...found,
    ...profile.functions.map((known): Entry => ({
      id: `${device.id} ${known.id}`,
      kind: "Code",
      name: `${device.name} · ${known.name}`,
      also: where,
      room,
      stage: "codes",
      select: { device: device.id, function: known.id },
    })),
  ];
}

function ofRoom(room: Room): Entry[] {
  const own = { also: room.name, room: room.id };
  const lighting = room.lighting;
  const moment = (at: string) => MOMENTS.find(([known]) => known === at)?.[1] ?? at;
  return [
    ...(lighting?.cues ?? []).map((cue, at): Entry => ({
      ...own,
      id: cue.id,
      kind: "Cue",
      name: `Line ${at + 1}: ${moment(cue.moment.at)}`,
      stage: "cues",
      select: { cue: cue.id },
    })),
    ...(lighting?.looks ?? []).map((look): Entry => ({
      ...own,
      id: look.id,
      kind: "Look",
      name: look.name,
      stage: "cues",
      select: { show: "zones" },
    })),
    ...(lighting?.zones ?? []).map((zone): Entry => ({
      ...own,
      id: zone.id,
      kind: "Zone",
      name: zone.name,
      stage: "cues",
      select: { show: "zones" },
    })),
    ...(lighting?.switches ?? []).map((known): Entry => ({
      ...own,
      id: known.id,
      kind: "Switch",
      name: known.name,
      stage: "cues",
      select: { show: "zones" },
    })),
    ...(room.surfaces ?? []).flatMap((surface): Entry[] => [
      {
        ...own,
        id: surface.id,
        kind: "Surface",
        name: surface.name,
        stage: "surfaces",
        select: { surface: surface.id },
      },
      ...(surface.pages ?? []).flatMap((page) =>
        page.keys
          .filter((key) => key.label !== "")
          .map((key): Entry => ({
            ...own,
            id: key.id,
            kind: "Key",
            name: key.label,
            also: `${surface.name}, ${room.name}`,
            stage: "surfaces",
            select: { surface: surface.id, page: page.id, key: key.id },
          })),
      ),
    ]),
    ...(room.rehearsal?.stories ?? []).map((story): Entry => ({
      ...own,
      id: story.id,
      kind: "Story",
      name: story.name,
      stage: "rehearse",
      select: { show: "stories" },
    })),
  ];
}

/** The best of those that have every word, those of the present room first; all of the first where nothing is asked. */
export function found(entries: readonly Entry[], asked: string, room: string, most = 60): Entry[] {
  if (asked.trim() === "") return entries.slice(0, most);
  const words = asked.trim().toLowerCase();
  const named = (name: string) => (name === words ? 0.5 : name.startsWith(words) ? 0.3 : 0);
  const better = (entry: Entry) => named(entry.name.toLowerCase()) + (entry.room === room ? 0.2 : 0);
  return entries
    .map((entry, at) => ({
      entry,
      at,
      good: match(`${entry.kind} ${entry.name} ${entry.also ?? ""}`, asked),
    }))
    .filter(({ good }) => good > 0)
    .sort((a, b) => b.good + better(b.entry) - a.good - better(a.entry) || a.at - b.at)
    .slice(0, most)
    .map(({ entry }) => entry);
}
