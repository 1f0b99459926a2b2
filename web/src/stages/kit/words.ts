import type {
  Cable,
  Device,
  DeviceKind,
  HouseView,
  Medium,
  Network,
  Profile,
  Records,
} from "../../api/types";
import { seconds, spanText } from "../../ui/time";

/** Kinds of device in the order of the signal. */
export const KINDS: readonly [DeviceKind, string][] = [
  ["disc-player", "Disc player"],
  ["streamer", "Streamer"],
  ["console", "Game console"],
  ["tuner", "Tuner"],
  ["receiver", "Receiver"],
  ["sound-bar", "Sound bar"],
  ["amplifier", "Power amplifier"],
  ["speakers", "Loudspeakers"],
  ["projector", "Projector"],
  ["display", "Display"],
  ["screen", "Screen"],
  ["blind", "Blind, curtain, awning"],
  ["light", "Lamp or dimmer"],
  ["heater", "Heater"],
  ["sensor", "Sensor"],
  ["keypad", "Keypad or hand remote"],
  ["gateway", "Gateway"],
  ["network", "Network switch"],
];

export const CABLES: readonly [Cable, string][] = [
  ["hdmi", "HDMI"],
  ["optical", "Optical"],
  ["analogue", "Analogue"],
  ["speaker", "Speaker"],
  ["network", "Network"],
  ["trigger", "12 V trigger"],
  ["usb-power", "USB power"],
  ["return-audio", "Return audio"],
];

export const MEDIA: readonly [Medium, string][] = [
  ["ir", "Infrared"],
  ["rf433", "Radio 433 MHz"],
  ["ip", "Network"],
  ["serial", "Serial"],
  ["mesh", "Mesh radio"],
  ["trigger", "12 V trigger"],
  ["usb-power", "USB power"],
  ["bluetooth", "Bluetooth"],
];

export function mediumName(medium: Medium): string {
  return MEDIA.find(([known]) => known === medium)?.[1] ?? medium;
}

/** The way in which commands reach a device: the first that was set up, else what its model offers first. */
export function usedMedium(profile: Profile, device: Device): Medium | undefined {
  return (device.paths?.[0] ?? profile.offers[0])?.medium;
}

/** Devices in the order of the signal, and within a kind in their own. */
export function inSignalOrder(house: HouseView, devices: Device[]): Device[] {
  const rank = (device: Device) => {
    const kind = house.profiles.find((known) => known.id === device.profile)?.kind;
    return kind ? kindRank(kind) : KINDS.length;
  };
  return [...devices].sort((a, b) => rank(a) - rank(b) || a.position - b.position);
}

export function kindRank(kind: DeviceKind): number {
  return KINDS.findIndex(([known]) => known === kind);
}

export function cableName(cable: Cable): string {
  return CABLES.find(([known]) => known === cable)?.[1] ?? cable;
}

/** A function's name. */
export function functionName(profile: Profile, id: string | null | undefined): string {
  return profile.functions.find((known) => known.id === id)?.name ?? "a missing key";
}

/** How power is switched, in a line. */
export function powerText(profile: Profile): string {
  switch (profile.power.how) {
    case "always-on":
      return profile.motion ? "no power key" : "always on";
    case "discrete":
      return "on and off keys";
    case "toggle":
      return `one key, ${functionName(profile, profile.power.key)}`;
    case "network-wake":
      return "woken by the network";
    case "follows":
      return "follows its trigger";
  }
}

/** How an input is chosen, in a line. */
export function selectionText(profile: Profile): string {
  const selection = profile.selection;
  switch (selection.how) {
    case "none":
      return "";
    case "discrete":
      return "a key each";
    case "cycle":
      return `steps with ${functionName(profile, selection.next)}`;
    case "menu":
      return `list: ${functionName(profile, selection.open)}, ${functionName(profile, selection.next)}, ${functionName(profile, selection.confirm)}`;
  }
}

/** How long until it can be used, and where that comes from. */
export function readyText(profile: Profile): { time: string; basis: string } {
  const span = profile.motion ? profile.motion.travel_down : profile.times.picture;
  if (span.hi_ms === 0) return { time: "at once", basis: "" };
  const basis = span.basis.from === "measured" ? `measured ${span.basis.n} ×` : span.basis.from;
  return { time: spanText(span.lo_ms, span.hi_ms), basis: basis === "profile" ? "from the profile" : basis };
}

export function gapText(profile: Profile): string {
  return seconds(profile.times.gap_ms);
}

/** "Disc player · HDMI out", for a choice of outputs. */
export function outputLabel(house: HouseView, device: string, output: string): string {
  const owner = house.devices.find((known) => known.id === device);
  const profile = house.profiles.find((known) => known.id === owner?.profile);
  const name = profile?.outputs.find((known) => known.id === output)?.name;
  return `${owner?.name ?? "a removed device"} · ${name ?? "a removed output"}`;
}

/** How a device is on the network. */
export const LINKS: readonly [NonNullable<Network["link"]>, string][] = [
  ["none", "not connected"],
  ["wired", "by cable"],
  ["wifi-2.4", "2.4 GHz"],
  ["wifi-5", "5 GHz"],
];

/** What is known of a device for a service call; empty texts where nothing has been written down. */
export function recordsOf(device: Device): Records {
  return {
    serial_number: "",
    firmware: "",
    driver: "",
    paired: "",
    local_key: "",
    account: "",
    needs_cloud: null,
    battery: "",
    dock: "",
    stands: "",
    notes: "",
    photos: [],
    ...device.records,
  };
}

type TextRecord = Exclude<keyof Records, "needs_cloud" | "photos" | "stands">;

/** The texts of the records, in the order in which they are asked for. */
export const RECORDS: readonly [TextRecord, string][] = [
  ["serial_number", "Serial number"],
  ["firmware", "Firmware"],
  ["driver", "Driver"],
  ["paired", "How it was paired"],
  ["battery", "Battery"],
  ["dock", "Dock or charger"],
  ["local_key", "Local key"],
  ["account", "Account"],
  ["notes", "Notes"],
];
