import { describe, expect, it } from "vitest";
import type { Device, HouseView } from "../../api/types";
import { rowsOf, stateOf, step } from "./table";

const device = (id: string): Device => ({ id, name: id, profile: id, room: "r", position: 0 });
const devices = [device("projector"), device("receiver")];
const house = {
  profiles: [
    {
      id: "projector",
      functions: [
        { id: "1", name: "Power on" },
        { id: "2", name: "Source" },
      ],
    },
    {
      id: "receiver",
      functions: [
        { id: "3", name: "power on" },
        { id: "4", name: "Disc" },
      ],
    },
  ],
  codes: [
    { id: "c", device: "projector", function: "1", decoded: true, summary: "", send_ms: 0 },
    { id: "d", device: "receiver", function: "3", decoded: false, summary: "", send_ms: 0 },
  ],
} as unknown as HouseView;
const rows = rowsOf(house, devices);

describe("the table of functions against devices", () => {
  it("puts functions of one name on one line, whatever their case", () => {
    expect(rows.map((row) => row.name)).toEqual(["Power on", "Source", "Disc"]);
    expect(rows[0]?.cells.map((cell) => cell && stateOf(cell))).toEqual(["decoded", "raw"]);
  });

  it("tells a function without a code from one that the device does not have", () => {
    expect(rows[1]?.cells.map((cell) => cell && stateOf(cell))).toEqual(["none", undefined]);
  });

  it.each([
    ["ArrowDown", [0, 1], [2, 1]],
    ["ArrowRight", [0, 0], [0, 1]],
    ["ArrowRight", [1, 0], undefined],
    ["ArrowUp", [0, 0], undefined],
    ["Enter", [0, 0], undefined],
  ] as const)("%s from %j goes to %j, over the gaps", (key, from, to) => {
    expect(step(rows, [...from], key)).toEqual(to);
  });
});
