import { createContext, useContext } from "react";
import type { Device, HouseView, Profile } from "../api/types";

/** What every stage gets from the shell. */
export interface RoomContext {
  house: HouseView;
  room: string;
  /** Devices of the room, in order. */
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

/** The profile of a device. */
export function profileOf(house: HouseView, device: Device): Profile {
  const profile = house.profiles.find((known) => known.id === device.profile);
  if (!profile) throw new Error("a device without a profile");
  return profile;
}

/** The name of a device, also where it is gone. */
export function deviceName(house: HouseView, id: string): string {
  return house.devices.find((device) => device.id === id)?.name ?? "a removed device";
}
