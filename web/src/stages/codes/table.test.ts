import { describe, expect, it } from "vitest";
import type { CodeLine, Device, HouseView } from "../../api/types";
import { newProfile } from "../kit/form";
import { filtered, passes, pressText, rowsOf, stateOf, step } from "./table";

function house(): HouseView {
  const profiles = [newProfile("projector", "A", "1"), newProfile("receiver", "B", "2")];
  const second = profiles[1];
  if (second) second.functions = [...second.functions, { id: "mute", name: "Mute" }];
  const devices: Device[] = profiles.map((profile, position) => ({
    id: `d${position}`,
    name: ["Projector", "Receiver"][position] ?? "",
    profile: profile.id,
    room: "r",
    position,
  }));
  const line = (device: number, fn: number, part: Partial<CodeLine>): CodeLine => ({
    id: `c${device}${fn}${part.medium ?? "ir"}`,
    device: `d${device}`,
    function: profiles[device]?.functions[fn]?.id ?? "",
    state: "decoded",
    medium: "ir",
    preferred: true,
    summary: "nec address=4 command=8",
    send_ms: 108,
    ...part,
  });
  return {
    profiles,
    devices,
    codes: [
      line(0, 0, { preferred: false }),
      line(0, 0, { medium: "ip", state: "written", summary: "TCP “PWR ON”" }),
      line(0, 1, { state: "failed" }),
      line(1, 0, { state: "tested" }),
      line(1, 1, { state: "opaque" }),
    ],
  } as unknown as HouseView;
}

describe("the table of functions", () => {
  it("has a line for each name and a gap where a device lacks it", () => {
    const table = house();
    const own = rowsOf(table, table.devices);
    expect(own.map((row) => row.name)).toEqual(["Power on", "Power off", "Mute"]);
    expect(own[2]?.cells[0]).toBeUndefined();
  });

  it("shows the code that is sent where a function has several", () => {
    const table = house();
    const cell = rowsOf(table, table.devices)[0]?.cells[0];
    expect(cell?.codes).toHaveLength(2);
    expect(cell && stateOf(cell)).toBe("written");
  });

  it("filters by state and finds by name, device or code", () => {
    const table = house();
    const own = rowsOf(table, table.devices);
    const names = (...args: Parameters<typeof filtered>) => filtered(...args).map((row) => row.name);
    expect(names(own, "missing", "")).toEqual(["Mute"]);
    expect(names(own, "failed", "")).toEqual(["Power off"]);
    expect(names(own, "opaque", "")).toEqual(["Power off"]);
    expect(names(own, "untested", "")).toEqual(["Power on", "Power off"]);
    expect(names(own, "all", "pwr on")).toEqual(["Power on"]);
    expect(names(own, "all", "nothing of the kind")).toEqual([]);
    expect(own.every((row) => row.cells.every((cell) => !cell || passes(cell, "all")))).toBe(true);
  });

  it("walks over gaps and stops at the edges", () => {
    const table = house();
    const own = rowsOf(table, table.devices);
    expect(step(own, [0, 0], "ArrowDown")).toEqual([1, 0]);
    expect(step(own, [1, 0], "ArrowDown")).toBeUndefined();
    expect(step(own, [2, 1], "ArrowLeft")).toBeUndefined();
    expect(step(own, [0, 0], "Enter")).toBeUndefined();
  });
});

describe("how a key is pressed", () => {
  it.each([
    [{ presses: 1, hold_ms: 0, gap_ms: 400 }, ""],
    [{ presses: 2, hold_ms: 0, gap_ms: 400 }, "twice"],
    [{ presses: 1, hold_ms: 1200, gap_ms: 400 }, "held for 1.2 s"],
    [{ presses: 4, hold_ms: 500, gap_ms: 400 }, "4 times, held for 0.5 s"],
  ])("%o is “%s”", (press, text) => {
    expect(pressText({ id: "f", name: "Home", press })).toBe(text);
  });
});
