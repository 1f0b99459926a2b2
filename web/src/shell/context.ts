import { createContext, useContext } from "react";
import type { Device, HouseView, Profile } from "../api/types";

/** What every stage gets from the shell. */
export interface RoomContext {
  house: HouseView;
  room: string;
  /** Devices that serve the room, in order. */
  devices: Device[];
  /** Says something in the log line. */
  say: (line: string) => void;
  /** Goes to a stage, with something selected there. */
  go: (stage: string, select?: Record<string, string>) => void;
}

export const RoomValue = createContext<RoomContext | undefined>(undefined);

/** The room on the table. */
export function useRoom(): RoomContext {
  const value = useContext(RoomValue);
  if (!value) throw new Error("useRoom outside of a room");
  return value;
}

/** The model of a device, without what the device has of its own. */
export function modelOf(house: HouseView, device: Device): Profile {
  const profile = house.profiles.find((known) => known.id === device.profile);
  if (!profile) throw new Error("a device without a profile");
  return profile;
}

/** How a device behaves: as its model, or as the server says of one that differs from it. */
export function profileOf(house: HouseView, device: Device): Profile {
  return house.behaves[device.id]?.own ?? modelOf(house, device);
}

/** The devices that serve a room, in order. */
export function devicesServing(house: HouseView, room: string): Device[] {
  return house.devices.filter((device) => house.behaves[device.id]?.serves.includes(room));
}

/** What a room is called. */
export function roomName(house: HouseView, id: string): string {
  return house.rooms.find((known) => known.id === id)?.name ?? "a removed room";
}

/** The name of a device, also where it is gone. */
export function deviceName(house: HouseView, id: string): string {
  return house.devices.find((device) => device.id === id)?.name ?? "a removed device";
}

/** The name of a device's function. */
export function functionName(house: HouseView, device: string, id: string): string {
  const own = house.devices.find((known) => known.id === device);
  const found = own && profileOf(house, own).functions.find((known) => known.id === id);
  return found?.name ?? "a key";
}

/** A line of the log line: what happened, and when it was said. */
export interface Said {
  text: string;
  at: Date;
}
