// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { FloorPlan, Placed, Reach, ReachLine, RoomPicture } from "../../../api/types";
import { device, house, model, show } from "../../../testing/house";
import { PlanView } from "./PlanView";
import { helpWords, whyWords } from "./ReachPart";
import { sectionWords } from "./Section";

afterEach(() => {
  localStorage.clear();
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
  openings: [{ wall: "top", kind: "window", from_mm: 2400, width_mm: 1400, bottom_mm: 900, height_mm: 1200 }],
  seats: [{ name: "front row, middle", eye_mm: [3600, 2100, 1150], row: 1 }],
  cupboards: [],
  spots: [],
  lamps: [],
  daylight_lux: 0,
};

const at = (id: string, x: number, y: number, azimuth = 90): Placed => ({
  id: `at ${id}`,
  device: id,
  at_mm: [x, y, 600],
  size_mm: [430, 350, 100],
  azimuth_deg: azimuth,
  elevation_deg: 0,
});

const EMITS = { mw_per_sr: 90, half_deg: 30, several_at_once: false, leads: 2 };
const HEARS = { least_uw_per_m2: 200, half_deg: 45 };
const optics = (part: object) =>
  ({
    figures: "invented",
    emits: null,
    hears: null,
    radio: null,
    lens: null,
    surface: null,
    price: null,
    ...part,
  }) as never;

const hall = (part: Parameters<typeof house>[0] = {}) =>
  house({
    rooms: [{ id: "hall", name: "Hall", position: 0, floor } as never],
    profiles: [
      model("gateway", "g", { optics: optics({ emits: EMITS }) }),
      model("receiver", "r", { optics: optics({ hears: HEARS }) }),
      model("amplifier", "a"),
    ],
    devices: [device("g", "Box"), device("r", "Receiver"), device("a", "Amplifier")],
    placed: [at("g", 6000, 1200, 180), at("r", 1700, 260)],
    ...part,
  });

const line = (more: Partial<ReachLine> = {}): ReachLine => ({
  device: "r",
  margin_db: 11.4,
  best_db: 11.4,
  reached: "reaches",
  hears: "surely",
  metres: 4.6,
  lead: false,
  why: null,
  help: [],
  ...more,
});

const answers = (lines: ReachLine[], pictures: RoomPicture[] = []) => ({
  "/reach": { reach: { lines, unknown: [] } satisfies Reach, field: null },
  "/picture": pictures,
});

describe("the plan", () => {
  it("says what the gateway reaches, and moves a device by its arrows", async () => {
    const seen = show(hall(), <PlanView />, { answers: answers([line()]) });
    const receiver = await screen.findByRole("button", { name: /^Receiver, 11 dB/ });
    receiver.focus();
    await userEvent.keyboard("{ArrowRight}");
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity).toMatchObject({
      entity: "placed",
      value: { device: "r", at_mm: [1750, 260, 600] },
    });
    await userEvent.keyboard("{Shift>}{ArrowDown}{/Shift}");
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(seen.edits[1]?.[0]?.entity?.value["at_mm"]).toEqual([1750, 760, 600]);
  });

  it("says why a device is not reached, and does what would help", async () => {
    const deaf = line({
      reached: "not",
      margin_db: null,
      why: { why: "cupboard", name: "Cupboard" },
      help: [{ help: "lead" }, { help: "open", margin_db: 9 }],
    });
    const seen = show(hall(), <PlanView />, { answers: answers([deaf]) });
    expect(await screen.findByText("behind the door or the wall of Cupboard")).toBeTruthy();
    expect(screen.getByText("With nothing in the way it would be 9 dB.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "A lead on its window, for Receiver" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value).toMatchObject({ device: "g", leads: ["r"] });
  });

  it("lists what is not placed, and places it inside the room", async () => {
    const seen = show(hall(), <PlanView />, { answers: answers([]) });
    const left = await screen.findByRole("region", { name: "Not placed" });
    await userEvent.click(within(left).getByRole("button", { name: "Place Amplifier" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    const [x = -1, y = -1] = seen.edits[0]?.[0]?.entity?.value["at_mm"] as number[];
    expect(x > 0 && x < 6400 && y > 0 && y < 4200).toBe(true);
  });

  it("takes a place in figures, refuses what is no length, and takes a device off", async () => {
    const seen = show(hall(), <PlanView />, { answers: answers([line()]) });
    fireEvent.focus(await screen.findByRole("button", { name: /^Receiver/ }));
    const form = await screen.findByRole("region", { name: "Where Receiver stands" });
    const left = within(form).getByLabelText("From the left");
    await userEvent.clear(left);
    await userEvent.type(left, "wide{Enter}");
    expect(within(form).getByRole("alert").textContent).toContain("That is no length");
    await userEvent.clear(left);
    await userEvent.type(left, "85 cm{Enter}");
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value["at_mm"]).toEqual([850, 260, 600]);
    await userEvent.click(within(form).getByRole("button", { name: "Take it off the plan" }));
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(seen.edits[1]?.[0]).toMatchObject({ do: "remove", kind: "placed", id: "at r" });
  });

  it("draws a room that has no plan from its three sides", async () => {
    const bare = hall({ rooms: [{ id: "hall", name: "Hall", position: 0 } as never] });
    const seen = show(bare, <PlanView />, { answers: answers([]) });
    expect(screen.getByText(/This room has no plan/)).toBeTruthy();
    for (const [label, typed] of [
      ["Length", "5.2"],
      ["Width", "4 m"],
    ] as const) {
      await userEvent.clear(screen.getByLabelText(label));
      await userEvent.type(screen.getByLabelText(label), `${typed}{Enter}`);
    }
    await userEvent.click(screen.getByRole("button", { name: "Draw the room" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity).toMatchObject({
      entity: "floor",
      value: { room: "hall", size_mm: [5200, 4000, 2500] },
    });
  });

  it("adds a seat, and shows lengths in feet where one likes", async () => {
    const seen = show(hall(), <PlanView />, { answers: answers([line()]) });
    await userEvent.click(await screen.findByText(/^The room: sides/));
    await userEvent.click(screen.getByRole("button", { name: "Add a seat" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]?.entity?.value["seats"]).toHaveLength(2);
    await userEvent.click(screen.getByLabelText("feet and inches"));
    expect(screen.getByRole("group", { name: "Plan, 21.0 by 13.8 ft" })).toBeTruthy();
    expect(localStorage.getItem("kestrel-feet")).toBe("1");
  });
});

describe("doors, windows and cupboards", () => {
  const withCupboard: FloorPlan = {
    ...floor,
    cupboards: [
      {
        name: "Cupboard",
        at_mm: [500, 3750, 600],
        size_mm: [800, 800, 1200],
        opens_to: "right",
        closed: true,
        door_passes_percent: 0,
      },
    ],
  };
  const room = () =>
    hall({ rooms: [{ id: "hall", name: "Hall", position: 0, floor: withCupboard } as never] });
  const put = (seen: ReturnType<typeof show>, at: number) =>
    seen.edits[at]?.[0]?.entity?.value as unknown as FloorPlan;

  it("are added, moved and taken out, each as one step", async () => {
    const seen = show(room(), <PlanView />, { answers: answers([]) });
    await userEvent.click(await screen.findByText(/^The room: sides/));
    const doors = screen.getByRole("region", { name: "Doors and windows" });
    await userEvent.click(within(doors).getByRole("button", { name: "Add a door" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(put(seen, 0).openings[1]).toMatchObject({ wall: "bottom", kind: "door", bottom_mm: 0 });
    await userEvent.selectOptions(within(doors).getByRole("combobox", { name: "In" }), "left");
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(put(seen, 1).openings[0]).toMatchObject({ wall: "left", kind: "window" });
    await userEvent.click(within(doors).getByRole("button", { name: "Remove the window in the upper wall" }));
    await waitFor(() => expect(seen.edits).toHaveLength(3));
    expect(put(seen, 2).openings).toMatchObject([{ kind: "door" }]);
  });

  it("a cupboard is opened, becomes a shelf, and is named", async () => {
    const seen = show(room(), <PlanView />, { answers: answers([]) });
    await userEvent.click(await screen.findByText(/^The room: sides/));
    const all = screen.getByRole("region", { name: "Cupboards and shelves" });
    await userEvent.click(within(all).getByRole("checkbox", { name: "closed" }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(put(seen, 0).cupboards[0]?.closed).toBe(false);
    await userEvent.selectOptions(within(all).getByRole("combobox", { name: "Its door looks at" }), "");
    await waitFor(() => expect(seen.edits).toHaveLength(2));
    expect(put(seen, 1).cupboards[0]?.opens_to).toBeNull();
    await userEvent.clear(within(all).getByRole("textbox", { name: "Name" }));
    await userEvent.type(within(all).getByRole("textbox", { name: "Name" }), "Rack");
    await userEvent.tab();
    await waitFor(() => expect(seen.edits).toHaveLength(3));
    expect(put(seen, 2).cupboards[0]?.name).toBe("Rack");
    await userEvent.click(within(all).getByRole("button", { name: "Add a cupboard" }));
    await waitFor(() => expect(seen.edits).toHaveLength(4));
    expect(put(seen, 3).cupboards).toHaveLength(2);
  });
});

describe("gateways", () => {
  it("are looked for when asked, told in words, and put into the house as one step", async () => {
    const set = {
      boxes: [
        {
          profile: "g",
          room: "hall",
          spot: "ceiling, middle",
          at_mm: [1, 2, 3],
          azimuth_deg: 0,
          serves: [{ device: "r", margin_db: 9, lead: false }],
          price: 2900,
        },
      ],
      price: 2900,
      bound: 2900,
      proved: true,
      least_db: 9,
      apart: [],
      others: [],
      unreached: [],
      unknown: ["a"],
      words: ["One box at 29 reaches everything; no set is cheaper."],
    };
    const seen = show(hall(), <PlanView />, {
      answers: { ...answers([line()]), "/gateways": set, "/gateways/apply": undefined },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Gateways" }));
    await userEvent.click(screen.getByRole("button", { name: "Find the cheapest set" }));
    expect((await screen.findByTestId("gateway-set")).textContent).toContain("no set is cheaper");
    expect(screen.getByText(/Left out, since they are not placed.*Amplifier/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Put them into the house" }));
    await waitFor(() => expect(seen.asked.some((one) => one.path.endsWith("/gateways/apply"))).toBe(true));
  });
});

const picture: RoomPicture = {
  on: "s",
  size_m: [2.66, 1.49],
  diagonal_m: 3.05,
  bottom_m: 0.84,
  design_m: 2.36,
  throw: {
    projector: "p",
    distance_m: 4.2,
    ratio: 1.58,
    ratios: [1.35, 2.02],
    shift_percent: [-51, 0],
    shifts_percent: [60, 25],
    fits: true,
    widths_m: [2.08, 3.11],
    wrong: null,
  },
  white: 92,
  ambient_lux: 4,
  seats: [
    {
      name: "back row",
      row: 2,
      distance_m: 4.6,
      wide_deg: 31,
      up_deg: 9,
      off_axis_deg: 5,
      pixels_per_degree: 116,
      white: 90,
      contrast: 60,
      over_heads_m: -0.04,
    },
  ],
  stop: {
    screen: "s",
    bottom_m: 0.84,
    percent: 74.7,
    after_ms: 17_150,
    spread_percent: 3.9,
    spread_m: 0.08,
    wrong: null,
  },
  remarks: ["back row does not see the bottom edge: heads in front hide it by 4 cm."],
};

describe("the picture", () => {
  it("says whether it fits, what each seat sees, and when the screen stops", async () => {
    const own = hall({ devices: [device("s", "Screen"), device("p", "Projector")], placed: [] });
    const seen = show(own, <PlanView />, { answers: answers([], [picture]) });
    await userEvent.click(await screen.findByRole("button", { name: "Picture" }));
    expect((await screen.findByTestId("throw")).textContent).toContain("It fits.");
    expect(screen.getByTestId("stop-height").textContent).toContain(
      "Stop at 75 % of the way, 17.2 s after leaving the upper limit, ± 3.9 % (8 cm)",
    );
    expect(screen.getByRole("cell", { name: "-4 cm" })).toBeTruthy();
    const bottom = screen.getByLabelText("Bottom edge above the floor");
    await userEvent.clear(bottom);
    await userEvent.type(bottom, "1 m{Enter}");
    const asks = () => seen.asked.filter((one) => one.path.endsWith("/picture")).length;
    await waitFor(() => expect(asks()).toBe(2));
    expect(screen.getByLabelText<HTMLInputElement>("Bottom edge above the floor").value).toBe("1.00 m");
  });

  it("is told in words to those who do not see the section", () => {
    const name = (id: string) => ({ s: "Screen" })[id] ?? id;
    expect(sectionWords(picture, name, false)).toBe(
      "Section of the room: Screen shows a picture of 2.66 m by 1.49 m, its bottom edge 0.84 m above the floor.",
    );
    expect(sectionWords(undefined, name, false)).toContain("nothing shows a picture");
  });
});

describe("words of reach", () => {
  it("say why, and what would help", () => {
    const name = (id: string) => id.toUpperCase();
    expect(whyWords({ why: "screen", screen: "s" }, name)).toBe("behind S");
    expect(whyWords({ why: "turned-away" }, name)).toBe("the gateway does not look at it");
    expect(whyWords({ why: "looks-away" }, name)).toBe("it does not look at the gateway");
    expect(whyWords({ why: "far" }, name)).toBe("too far");
    expect(helpWords({ help: "turn", azimuth_deg: 1, elevation_deg: 0, by_deg: 30, margin_db: 8.2 })).toBe(
      "Turn the gateway by 30°: 8 dB",
    );
    expect(helpWords({ help: "move", at_mm: [0, 0, 0], by_m: 1.2, margin_db: 6.9 })).toBe(
      "Move the gateway 1.2 m along its wall: 7 dB",
    );
  });
});
