// @vitest-environment jsdom
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { RehearsalView } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { RoomDrawing } from "./RoomDrawing";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("the drawing of the room", () => {
  it("is the section of its plan where it has one, and a click gives the hands at a device", async () => {
    const at = (own: string, x: number, z: number) => ({
      id: `at ${own}`,
      device: own,
      at_mm: [x, 2100, z],
      size_mm: [2900, 120, 120],
      azimuth_deg: 0,
      elevation_deg: 0,
    });
    const floor = {
      size_mm: [6400, 4200, 2600],
      seats: [{ name: "front row", eye_mm: [3600, 2100, 1150], row: 1 }],
      cupboards: [],
      lamps: [],
      openings: [
        { wall: "bottom", kind: "door", from_mm: 5200, width_mm: 900, bottom_mm: 0, height_mm: 2000 },
      ],
      spots: [],
    };
    const surface = { size_mm: [2657, 1494], black_mm: 400, below_mm: 60 };
    const lens = { throw_least_hundredths: 135 };
    const hall = house({
      rooms: [{ id: "hall", name: "Hall", position: 0, floor } as never],
      profiles: [
        model("screen", "Screen", { optics: { surface } as never }),
        model("projector", "Projector", { optics: { lens } as never }),
      ],
      devices: [device("Screen", "Screen"), device("Projector", "Projector")],
      placed: [at("Screen", 200, 2450), at("Projector", 4600, 2100)] as never,
    });
    const now = {
      room: "hall",
      now_ms: 10_000,
      devices: [
        { device: "Projector", power: "on", input: null, down_percent: null },
        { device: "Screen", power: "always", input: null, down_percent: 40, moving: "down" },
        { device: "Sensor", power: "always", input: null, down_percent: null, tripped: true },
      ],
      beliefs: [],
      wire: [],
      light: { zones: [] },
    } as unknown as RehearsalView;
    const picked: string[] = [];
    show(hall, <RoomDrawing view={now} onPick={(own) => picked.push(own)} />);
    expect(screen.getByRole("group", { name: /^The screen is 40 % down/ })).toBeTruthy();
    expect(screen.getByText(/Keep clear: the screen is going down, 40 % down/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Hands at Projector" }));
    screen.getByRole("button", { name: "Hands at Screen" }).focus();
    await userEvent.keyboard("{Enter}");
    expect(picked).toEqual(["Projector", "Screen"]);
    // People: somebody trips the sensor at the door, and somebody sits down and sees the bottom edge.
    expect(screen.getByRole("img", { name: "Somebody walks in" })).toBeTruthy();
    const seat = screen.getByRole("button", { name: "front row: nobody sits here" });
    seat.focus();
    await userEvent.keyboard(" ");
    expect(screen.getByRole("button", { name: "front row: somebody sits here", pressed: true })).toBeTruthy();
  });
});
