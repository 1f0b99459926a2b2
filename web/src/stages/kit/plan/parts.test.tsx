// @vitest-environment jsdom
import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { FloorPlan, NamedStop, Placed, RoomPicture } from "../../../api/types";
import { device, house, model, show } from "../../../testing/house";
import { usePlanEdits } from "./edits";
import { FloorForm } from "./FloorForm";
import { NameField } from "./Lines";
import { PlacedForm } from "./PlacedForm";
import { StopPosition } from "./StopPosition";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const floor: FloorPlan = {
  size_mm: [6400, 4200, 2600],
  storey: 0,
  at_mm: [0, 0],
  walls: ["plaster", "plaster", "plaster", "plaster"],
  floor: "wood",
  ceiling: "plaster",
  openings: [],
  seats: [],
  cupboards: [],
  spots: [{ name: "shelf", at_mm: [6300, 1200, 1300] }],
  lamps: [{ zone: "z", at_mm: [2000, 2100, 2550], lumens: 800 }],
  daylight_lux: 120,
};

const zones = [
  { id: "z", name: "Ceiling" },
  { id: "w", name: "Walls" },
];

function form(own: Partial<FloorPlan> = {}) {
  const rooms = [
    { id: "hall", name: "Hall", position: 0, floor: { ...floor, ...own }, lighting: { zones, looks: [] } },
    { id: "loft", name: "Loft", position: 1, floor: { ...floor, storey: 1, at_mm: [500, 0] } },
  ];
  const seen = show(house({ rooms: rooms as never }), <FloorForm feet={false} />);
  const value = (at: number) => seen.edits[at]?.[0]?.entity?.value as unknown as FloorPlan;
  return { seen, value };
}

async function open() {
  await userEvent.click(screen.getByText(/^The room: sides/));
}

describe("the room in the house", () => {
  it("stands on a storey of the house plan, drawn with the others", async () => {
    const { seen, value } = form();
    await open();
    const own = screen.getByRole("region", { name: "The place of the room in the house" });
    expect(within(own).getByRole("img", { name: "Ground floor: Hall, 6.40 m by 4.20 m" })).toBeTruthy();
    expect(within(own).getByRole("img", { name: "Storey 1: Loft, 6.40 m by 4.20 m" })).toBeTruthy();
    const left = within(own).getByLabelText("Corner from the left of the house");
    await userEvent.clear(left);
    await userEvent.type(left, "1.5 m{Enter}");
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(value(0)).toMatchObject({ at_mm: [1500, 0], room: "hall" });
  });

  it("has spots at which gateways may be mounted", async () => {
    const { seen, value } = form();
    await open();
    const spots = screen.getByRole("region", { name: "Spots for gateways" });
    await userEvent.click(within(spots).getByRole("button", { name: "Add a spot" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(value(0).spots.map((one) => one.name)).toEqual(["shelf", "spot 2"]);
    await userEvent.click(within(spots).getByRole("button", { name: "Remove shelf" }));
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(value(1).spots.map((one) => one.name)).toEqual(["spot 2"]);
  });

  it("has lamps of its zones, and daylight; what is no number is said and kept", async () => {
    const { seen, value } = form();
    await open();
    const lamps = screen.getByRole("region", { name: "Lamps and daylight" });
    await userEvent.selectOptions(within(lamps).getByLabelText("Zone"), "Walls");
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(value(0).lamps[0]).toMatchObject({ zone: "w", lumens: 800 });
    const daylight = within(lamps).getByLabelText("Daylight on the screen wall, lx");
    await userEvent.clear(daylight);
    await userEvent.type(daylight, "bright");
    await userEvent.tab();
    expect(within(lamps).getByRole("alert").textContent).toBe("A whole number from 0 to 100000.");
    expect(seen.edits).toHaveLength(1);
    await userEvent.clear(daylight);
    await userEvent.type(daylight, "300{Enter}");
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(value(1).daylight_lux).toBe(300);
    await userEvent.click(within(lamps).getByRole("button", { name: "Add a lamp" }));
    await waitFor(() => expect(seen.edits).toHaveLength(3));
    expect(value(2).lamps).toHaveLength(2);
  });
});

describe("a placed thing", () => {
  const place = {
    id: "p",
    device: "d",
    at_mm: [1000, 1000, 500],
    size_mm: [430, 350, 100],
    azimuth_deg: 0,
    elevation_deg: 0,
  } as unknown as Placed;

  it("keeps both of two edits that are typed one behind the other", async () => {
    function Form() {
      const { changePlaced } = usePlanEdits();
      return <PlacedForm own={place} feet={false} change={changePlaced} />;
    }
    const one = house({
      profiles: [model("gateway", "d")],
      devices: [device("d", "Box")],
      placed: [place],
      versions: { p: 1 },
    });
    const seen = show(one, <Form />);
    // What is drawn is still of before the first edit when the second one is typed.
    await userEvent.type(screen.getByLabelText("From the left"), "1.5 m{Enter}");
    await userEvent.type(screen.getByLabelText("From the top"), "2 m{Enter}");
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(seen.edits[1]?.[0]).toMatchObject({ base: 2, entity: { value: { at_mm: [1500, 2000, 500] } } });
  });
});

const timed = { after_ms: 17_150, late_ms: 300, spread_per_mille: 39 };
const position: NamedStop = { name: "", key: "stop", down_percent: 75, timed };
const stop: NonNullable<RoomPicture["stop"]> = {
  screen: "s",
  bottom_m: 0.84,
  percent: 74.7,
  after_ms: 17_150,
  spread_percent: 3.9,
  spread_m: 0.08,
  position,
};

function screenWith(stops: NamedStop[], own = stop) {
  const moving = model("screen", "s", { stops });
  const one = house({ profiles: [moving], devices: [{ ...device("s", "Screen"), profile: moving.id }] });
  return show(one, <StopPosition stop={own} />);
}

describe("a stop height as a position", () => {
  it("is kept on this screen under a name", async () => {
    const seen = screenWith([]);
    await userEvent.type(screen.getByLabelText("Keep this height as"), "Scope{Enter}");
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value).toMatchObject({
      id: "s",
      overrides: [{ field: "stops", value: [{ ...position, name: "Scope" }] }],
    });
  });

  it("is told with its time and its spread, and removed", async () => {
    const seen = screenWith([{ ...position, name: "Scope" }]);
    expect(screen.getByRole("list", { name: "Positions of this screen" }).textContent).toContain(
      "“Scope”: 75 % down, stopped 17.2 s after the upper limit, ± 3.9 %",
    );
    await userEvent.type(screen.getByLabelText("Keep this height as"), "scope");
    expect(screen.getByText("There is a position of this name.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Remove position Scope" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value["overrides"]).toEqual([{ field: "stops", value: [] }]);
  });

  it("says why it can be none", () => {
    screenWith([], { ...stop, position: null, no_position: "So near to its lower limit." });
    expect(screen.getByText("So near to its lower limit.")).toBeTruthy();
    expect(screen.queryByLabelText("Keep this height as")).toBeNull();
  });
});

describe("the name of a line", () => {
  it("is not that of a line that was removed above it, whatever was typed there", async () => {
    const named = vi.fn();
    const { rerender } = render(<NameField name="Seat 1" onName={named} />);
    const field = () => screen.getByLabelText("Name") as HTMLInputElement;
    await userEvent.clear(field());
    await userEvent.type(field(), "Window seat{Enter}");
    expect(named).toHaveBeenCalledExactlyOnceWith("Window seat");
    rerender(<NameField name="Window seat" onName={named} />);
    expect(field().value).toBe("Window seat");
    rerender(<NameField name="Seat 2" onName={named} />);
    expect(field().value).toBe("Seat 2");
    await userEvent.click(field());
    await userEvent.tab();
    expect(named).toHaveBeenCalledOnce();
  });

  it("is kept where only blanks are typed", async () => {
    const named = vi.fn();
    render(<NameField name="Seat 1" onName={named} />);
    await userEvent.clear(screen.getByLabelText("Name"));
    await userEvent.type(screen.getByLabelText("Name"), "   {Enter}");
    expect(named).not.toHaveBeenCalled();
  });
});
