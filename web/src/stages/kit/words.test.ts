import { describe, expect, it } from "vitest";
import type { Device, HouseView, Profile } from "../../api/types";
import { newProfile } from "./form";
import {
  CABLES,
  cableName,
  functionName,
  gapText,
  inSignalOrder,
  kindRank,
  KINDS,
  LINKS,
  MEDIA,
  mediumName,
  outputLabel,
  powerText,
  readyText,
  RECORDS,
  recordsOf,
  selectionText,
  usedMedium,
} from "./words";

const receiver = newProfile("receiver", "Ruskel", "R9");
const device = (part: Partial<Device>): Device =>
  ({ id: "d", name: "Receiver", profile: receiver.id, room: "r", position: 0, ...part }) as Device;

describe("names", () => {
  it.each([
    ["kinds", KINDS],
    ["cables", CABLES],
    ["media", MEDIA],
    ["links", LINKS],
    ["records", RECORDS],
  ])("every one of the %s is named once", (_, list: readonly (readonly [string, string])[]) => {
    expect(new Set(list.map(([id]) => id)).size).toBe(list.length);
    expect(new Set(list.map(([, name]) => name)).size).toBe(list.length);
    expect(list.every(([, name]) => name.length > 0)).toBe(true);
  });

  it("says what it does not know as it stands", () => {
    expect(mediumName("ir")).toBe("Infrared");
    expect(mediumName("smoke" as never)).toBe("smoke");
    expect(cableName("hdmi")).toBe("HDMI");
    expect(cableName("rope" as never)).toBe("rope");
    expect(functionName(receiver, "gone")).toBe("a missing key");
    expect(functionName(receiver, null)).toBe("a missing key");
  });
});

describe("a profile in a line", () => {
  const [first, second, third] = receiver.functions;
  const span = (lo_ms: number, hi_ms: number, basis: unknown) => ({ lo_ms, hi_ms, basis }) as never;

  it.each([
    [{ how: "always-on" }, "always on"],
    [{ how: "toggle", key: first?.id }, `one key, ${first?.name}`],
    [{ how: "follows" }, "follows its trigger"],
    [{ how: "network-wake" }, "woken by the network"],
    [{ how: "discrete", on: first?.id, off: second?.id }, "on and off keys"],
  ])("power %o is “%s”", (power, text) => {
    expect(powerText({ ...receiver, power: power as Profile["power"] })).toBe(text);
  });

  it("has no power key where it only moves", () => {
    const screen = { ...receiver, power: { how: "always-on" }, motion: {} } as Profile;
    expect(powerText(screen)).toBe("no power key");
  });

  it.each([
    [{ how: "none" }, ""],
    [{ how: "discrete", keys: [] }, "a key each"],
    [{ how: "cycle", next: first?.id }, `steps with ${first?.name}`],
    [
      { how: "menu", open: first?.id, next: second?.id, confirm: third?.id ?? first?.id },
      `list: ${first?.name}, ${second?.name}, ${third?.name ?? first?.name}`,
    ],
  ])("selection %o is “%s”", (selection, text) => {
    expect(selectionText({ ...receiver, selection: selection as Profile["selection"] })).toBe(text);
  });

  it.each([
    [span(0, 0, { from: "profile" }), { time: "at once", basis: "" }],
    [span(5_000, 7_000, { from: "profile" }), { time: "5–7 s", basis: "from the profile" }],
    [span(24_100, 29_400, { from: "measured", n: 9 }), { time: "24.1–29.4 s", basis: "measured 9 ×" }],
    [span(9_000, 18_000, { from: "assumed" }), { time: "9–18 s", basis: "assumed" }],
  ])("ready %o is %o", (picture, text) => {
    expect(
      readyText({ ...receiver, motion: null, times: { ...receiver.times, picture } } as Profile),
    ).toEqual(text);
  });

  it("takes the time of the way down for what moves", () => {
    const travel_down = span(22_000, 24_000, { from: "profile" });
    expect(readyText({ ...receiver, motion: { travel_down } } as never).time).toBe("22–24 s");
  });

  it("says the pause between commands in seconds", () => {
    expect(gapText({ ...receiver, times: { ...receiver.times, gap_ms: 300 } })).toBe("0.3 s");
  });
});

describe("devices", () => {
  it("are controlled by the first path that was set up, else by what the model offers first", () => {
    const offers = [{ medium: "ir", replies: false }] as Profile["offers"];
    const model = { ...receiver, offers };
    expect(usedMedium(model, device({ paths: [] }))).toBe("ir");
    expect(usedMedium(model, device({ paths: [{ medium: "ip" }] as never }))).toBe("ip");
    expect(usedMedium({ ...model, offers: [] }, device({}))).toBeUndefined();
  });

  it("stand in the order of the signal, and within a kind in their own", () => {
    const disc = newProfile("disc-player", "Orrin", "D1");
    const projector = newProfile("projector", "Tarnbeck", "P2");
    const house = { profiles: [receiver, disc, projector] } as unknown as HouseView;
    const devices = [
      device({ id: "p", profile: projector.id }),
      device({ id: "r2", position: 2 }),
      device({ id: "r1", position: 1 }),
      device({ id: "d", profile: disc.id }),
      device({ id: "lost", profile: "gone" }),
    ];
    expect(inSignalOrder(house, devices).map((one) => one.id)).toEqual(["d", "r1", "r2", "p", "lost"]);
    expect(devices[0]?.id).toBe("p");
    expect(kindRank("disc-player")).toBeLessThan(kindRank("receiver"));
    expect(kindRank("receiver")).toBeLessThan(kindRank("projector"));
  });

  it("name their outputs, and say where one was removed", () => {
    const outputs = [{ id: "o", name: "Monitor out", cable: "hdmi" }] as Profile["outputs"];
    const house = { devices: [device({})], profiles: [{ ...receiver, outputs }] } as unknown as HouseView;
    expect(outputLabel(house, "d", "o")).toBe("Receiver · Monitor out");
    expect(outputLabel(house, "d", "gone")).toBe("Receiver · a removed output");
    expect(outputLabel(house, "gone", "o")).toBe("a removed device · a removed output");
  });

  it("have empty records until something is written down", () => {
    const empty = recordsOf(device({}));
    expect(RECORDS.every(([field]) => empty[field] === "")).toBe(true);
    expect(empty.photos).toEqual([]);
    const written = recordsOf(device({ records: { ...empty, serial_number: "R9-0042", needs_cloud: true } }));
    expect([written.serial_number, written.needs_cloud, written.firmware]).toEqual(["R9-0042", true, ""]);
  });
});
