import type { Device, FloorPlan, HouseView, PictureSurface, Placed, Profile } from "./types";

/** The floor plan of a room; none where nobody has drawn it. Lists of three lengths are told as such. */
export function floorOf(house: HouseView, room: string): FloorPlan | undefined {
  const floor = house.rooms.find((one) => one.id === room)?.floor as FloorPlan | undefined;
  return floor && (floor.size_mm?.[0] ?? 0) > 0 ? floor : undefined;
}

/** What stands somewhere in a room. */
export function placedIn(house: HouseView, room: string, devices: readonly Device[]): Placed[] {
  const here = new Set(devices.filter((own) => own.room === room).map((own) => own.id));
  return (house.placed as Placed[]).filter((own) => here.has(own.device));
}

/** What is known of a device in space. */
export function opticsOf(house: HouseView, device: string): Profile["optics"] {
  const profile = house.devices.find((one) => one.id === device)?.profile;
  return house.profiles.find((one) => one.id === profile)?.optics;
}

/** The surface on which a device shows a picture. */
export function surfaceOf(house: HouseView, device: string): PictureSurface | undefined {
  return (opticsOf(house, device)?.surface ?? undefined) as PictureSurface | undefined;
}
