import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import type { Device, DeviceView, HouseView, RehearsalView } from "../../api/types";
import { RoomValue } from "../../shell/context";
import { newProfile } from "../kit/form";
import { RoomDrawing } from "./RoomDrawing";
import { Standing } from "./Standing";
import { WireLog } from "./WireLog";

const profiles = [
  newProfile("projector", "Tarnbeck", "P2"),
  newProfile("screen", "Skerrow", "120"),
  newProfile("amplifier", "Ruskel", "A3"),
];
const devices = ["Projector", "Screen", "Amplifier"].map(
  (name, position) => ({ id: name, name, profile: profiles[position]?.id, room: "hall", position }) as Device,
);
const house = {
  house: { id: "h" },
  profiles,
  devices,
  behaves: {},
  connections: [],
  rooms: [],
  placed: [],
} as unknown as HouseView;

const state = (device: string, part: Partial<DeviceView>): DeviceView =>
  ({
    device,
    power: "off",
    input: null,
    marked: null,
    down_percent: null,
    doing: null,
    busy_until_ms: null,
    plugged: true,
    ...part,
  }) as DeviceView;

const view = (part: Partial<RehearsalView>): RehearsalView =>
  ({
    room: "hall",
    now_ms: 10_000,
    gateway: "127.0.0.1:4000",
    devices: [],
    beliefs: [],
    wire: [],
    ...part,
  }) as RehearsalView;

/** What a reader of the page would read, blanks made one. */
function text(element: React.ReactNode, profilesNow = profiles): string {
  const value = {
    house: { ...house, profiles: profilesNow },
    room: "hall",
    devices,
    say: () => undefined,
    go: () => undefined,
  };
  const markup = renderToStaticMarkup(<RoomValue value={value}>{element}</RoomValue>);
  return markup
    .replace(/aria-label="([^"]*)"/g, ">$1<")
    .replace(/<[^>]*>/g, " ")
    .replace(/\s+/g, " ")
    .trim();
}

describe("the wire log", () => {
  const line = {
    number: 1,
    at_ms: 29_500,
    medium: "ir",
    direction: "out",
    device: null,
    bytes: "",
    durations: 67,
    routine: false,
    length_ms: 68,
    meaning: "nec address=50 command=2",
    heard: [],
  };

  it("says where the gateway is and that nothing was sent", () => {
    const said = text(<WireLog view={view({})} />);
    expect(said).toContain("gateway at 127.0.0.1:4000");
    expect(said).toContain("Nothing has been sent yet.");
  });

  it("says that nobody understood a command", () => {
    const said = text(<WireLog view={view({ wire: [line] as never })} />);
    expect(said).toContain("0:29.5 → to the device all Infrared nec address=50 command=2 68 ms nobody");
  });

  it("has the newest line first, and what each device did or why not", () => {
    const heard = [
      {
        device: "Projector",
        function: "f",
        name: "Power on",
        outcome: { did: "obeyed", what: "starting up" },
      },
      {
        device: "Screen",
        function: "g",
        name: "Down",
        outcome: { did: "ignored", why: "it is still moving" },
      },
    ];
    const wire = [
      { ...line, meaning: "the first" },
      { ...line, number: 2, meaning: "the second", heard },
    ];
    const said = text(<WireLog view={view({ wire: wire as never })} />);
    expect(said.indexOf("the second")).toBeLessThan(said.indexOf("the first"));
    expect(said).toContain("Projector, Power on: starting up");
    expect(said).toContain("Screen, Down: ignored, it is still moving");
  });
});

describe("the room as it stands", () => {
  it("says what each device is, what it does and for how long, and what the runtime believes", () => {
    const said = text(
      <Standing
        view={view({
          devices: [
            state("Projector", { power: "starting", doing: "starting up", busy_until_ms: 13_400 }),
            state("Screen", {
              power: "always",
              down_percent: 40,
              doing: "moving down",
              busy_until_ms: 22_000,
            }),
          ],
          beliefs: [{ device: "Projector", text: "on, any input" }] as never,
        })}
      />,
    );
    expect(said).toContain("Projector starting up starting up, 3.4 s left on, any input");
    expect(said).toContain("Screen 40 % down");
    expect(said).not.toContain("Amplifier");
  });

  it("does not call a device always on that follows its trigger", () => {
    const follows = profiles.map((profile) =>
      profile.kind === "amplifier"
        ? { ...profile, power: { how: "follows", delay: profile.times.warm_up } }
        : profile,
    );
    const standing = <Standing view={view({ devices: [state("Amplifier", { power: "always" })] })} />;
    expect(text(standing, follows as never)).toContain("Amplifier follows its trigger");
    const always = profiles.map((profile) => ({ ...profile, power: { how: "always-on" } }));
    expect(text(standing, always as never)).toContain("Amplifier always on");
  });

  it("marks what the runtime believes otherwise, says where a belief comes from, and what is broken", () => {
    const said = text(
      <Standing
        view={view({
          devices: [state("Projector", { power: "off", plugged: false })],
          beliefs: [
            { device: "Projector", text: "on, HDMI 1", how: "commanded", age_ms: 12_000, differs: true },
          ] as never,
          drives: [{ device: "Projector", talks: "pjlink", held: null, silent: "silent for 9 s" }] as never,
          faults: [{ device: "Projector", faults: { closes: true, slow_ms: 2_000 } }] as never,
        })}
      />,
    );
    expect(said).toContain("Projector plug out – ≠ on, HDMI 1 · told, 12 s ago");
    expect(said).toContain("PJLink, silent for 9 s closes connections, 2 s late");
  });

  it("never counts below nothing", () => {
    const late = state("Projector", { power: "on", doing: "input coming up", busy_until_ms: 9_000 });
    expect(text(<Standing view={view({ devices: [late] })} />)).toContain("input coming up, 0 s left");
  });
});

describe("the drawing of the room", () => {
  it.each([
    [0, "off", "The screen is 0 % down. There is no picture."],
    [40, "starting", "The screen is 40 % down. There is no picture."],
    [100, "on", "The screen is 100 % down. There is no picture."],
  ] as const)("with the screen at %d %% and the projector %s", (down_percent, power, label) => {
    const devicesNow = [state("Projector", { power }), state("Screen", { power: "always", down_percent })];
    expect(text(<RoomDrawing view={view({ devices: devicesNow })} />)).toContain(label);
  });
});
