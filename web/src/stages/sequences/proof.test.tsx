// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { CellPlan } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { percent, ProofView } from "./ProofView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const ENDS = { from: "off", to: "film" };

const loss = { fails: null, untested: [], raises: [] };

const cellOf = (part: object = {}) => ({
  from: { is: "off" },
  to: { is: "in", activity: "film" },
  guarantee: "at-risk",
  verdict: "At risk",
  waits_hold: true,
  cannot_be_sent: [],
  confirm: [],
  not_proved: null,
  states: 1,
  sends: 2,
  loss,
  light: null,
  story: null,
  together_percent: null,
  ...part,
});

const found = (cell: object, part: object = {}): CellPlan =>
  ({
    cell,
    plan: {
      from: { is: "off" },
      to: { is: "in", activity: "film" },
      steps: [],
      waits: [],
      goals: [],
      findings: [],
      ready_ms: 9_000,
      end_ms: 12_000,
    },
    rests: [],
    broken_off: null,
    ...part,
  }) as unknown as CellPlan;

function proof(own: CellPlan, answers: Record<string, unknown> = {}) {
  const view = house({
    house: { id: "h", name: "House", coverage_percent: 90 } as never,
    profiles: [model("display", "d")],
    devices: [device("d", "Display")],
    versions: { h: 3 },
  });
  return show(view, <ProofView found={own} ends={ENDS} order={view.devices} profiles={view.profiles} />, {
    answers: { "/remedies": [], "/hands": [], ...answers },
  });
}

describe("a course of events that goes wrong", () => {
  const story = {
    device: "d",
    headline: "Display misses its power key.",
    beats: [
      { at_ms: 0, device: "d", text: "It is told to go on.", turns: false, step: null },
      { at_ms: 2_000, device: "d", text: "It does not hear that.", turns: true, step: null },
    ],
    end: "it is off",
  };

  it("is told beat by beat, with the one where it turns, and its end", async () => {
    proof(found(cellOf({ story })));
    const own = screen.getByRole("region", { name: "Story" });
    expect(own.textContent).toContain("How it goes wrong");
    const beats = within(own).getAllByRole("listitem");
    expect(beats).toHaveLength(3);
    expect(beats[1]?.textContent).toContain("Here it turns.");
    expect(beats[2]?.textContent).toContain("it is off");
    await userEvent.click(within(own).getByRole("button", { name: "Next step" }));
    expect(
      within(beats[1] as HTMLElement)
        .getByRole("button")
        .getAttribute("aria-current"),
    ).toBe("step");
    expect(within(own).getByRole("button", { name: "Next step" })).toHaveProperty("disabled", true);
  });

  it("is told as what other hands do, where it holds without them", () => {
    proof(
      found(cellOf({ story, guarantee: "if-nobody-else", verdict: "Certain if nobody else touches it" })),
    );
    expect(screen.getByText("How other hands make it go wrong")).toBeTruthy();
  });

  it("is kept as a test of the house under a name of its own", async () => {
    const kept = { id: "s", name: "Display misses", events: [], position: 0 };
    const seen = proof(found(cellOf({ story })), {
      "/counterexample": { story: kept, ends_wrong: ["d"] },
    });
    await userEvent.click(screen.getByRole("button", { name: "Keep it as a test" }));
    expect(await screen.findByText("Kept in Rehearse ▸ Stories.")).toBeTruthy();
    expect(seen.edits[0]?.[0]?.entity).toMatchObject({
      entity: "story",
      value: { name: "Display misses", room: "hall" },
    });
  });

  it("is watched in the rehearsal room", async () => {
    const events = [{ at_ms: 0, is: "request", to: { is: "off" } }];
    const seen = proof(found(cellOf({ story })), {
      "/counterexample": { story: { id: "s", name: "x", events, position: 0 }, ends_wrong: [] },
      "/rehearsal/play": {},
    });
    await userEvent.click(screen.getByRole("button", { name: "Rehearse this story" }));
    await waitFor(() => expect(seen.at).toBe("rehearse"));
    expect(seen.asked.find((one) => one.path.endsWith("/rehearsal/play"))?.body).toEqual({ events });
    expect(screen.getByText(/the runtime does better/)).toBeTruthy();
  });
});

describe("remedies", () => {
  const remedy = {
    title: "Measure how long it takes to go on",
    takes: "9 readings of the stopwatch",
    guarantee: "certain",
    waits_hold: true,
    verdict: "Certain",
    at_risk: 1,
    ready_ms: 12_000,
    change_ms: 3_000,
    changes: [{ entity: "device", value: { id: "d", name: "Display" } }],
  };

  it("say what they take, what the cell is then, and how much later it is ready", async () => {
    proof(found(cellOf()), { "/remedies": [remedy] });
    const row = (await screen.findByText("Measure how long it takes to go on")).closest("tr");
    expect(row?.textContent).toContain("9 readings of the stopwatch");
    expect(row?.textContent).toContain("1 cell of the room at risk then");
    expect(row?.textContent).toContain("3 s later");
  });

  it("are applied as one step", async () => {
    const seen = proof(found(cellOf()), { "/remedies": [remedy] });
    await userEvent.click(await screen.findByRole("button", { name: /^Apply: Measure/ }));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.said[0]).toBe("Measure how long it takes to go on. Undo takes it back.");
  });

  it("are not looked for where the cell is certain", () => {
    proof(found(cellOf({ guarantee: "certain", verdict: "Certain" })));
    expect(screen.queryByRole("region", { name: "Remedies" })).toBeNull();
  });

  it("may be none", async () => {
    proof(found(cellOf()));
    expect(await screen.findByText("None is known for this one.")).toBeTruthy();
  });
});

describe("what a verdict rests on", () => {
  const rest = (part: object) => ({
    what: "Display goes on",
    span: { lo_ms: 8_000, hi_ms: 12_000, basis: { from: "measured", n: 9 } },
    holds: true,
    coverage_percent: 91,
    lacks: 0,
    ...part,
  });

  it("is listed with where each time is known from, and whether it holds", () => {
    const rests = [
      rest({
        what: "Display cools",
        holds: false,
        lacks: 4,
        span: { lo_ms: 1, hi_ms: 2, basis: { from: "assumed" } },
      }),
      rest({}),
    ];
    proof(found(cellOf({ together_percent: 82 }), { rests }));
    const own = screen.getByRole("region", { name: "What it rests on" });
    expect(own.textContent).toContain("All of them hold together with at least 82 %.");
    expect(own.textContent).toContain("not yet: 4 measurements are missing");
    expect(own.textContent).toContain("measured 9 ×");
    expect(own.textContent).toContain("yes: covers 91 % of times");
  });

  it("has to cover so much of the times as the house says", async () => {
    const seen = proof(found(cellOf(), { rests: [rest({})] }));
    const field = screen.getByLabelText("A measured wait has to cover");
    fireEvent.change(field, { target: { value: "95" } });
    fireEvent.blur(field);
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]?.[0]).toMatchObject({ base: 3, entity: { value: { coverage_percent: 95 } } });
  });
});

describe("lost presses", () => {
  it("are told as a range where they were counted, with what would make them rarer", () => {
    const counted = {
      fails: { lo: 0.01, hi: 0.12 },
      untested: ["d"],
      raises: [{ what: "Send Power on twice", fails: { lo: 0.0001, hi: 0.02 }, costs_ms: 400 }],
    };
    const seen = proof(found(cellOf({ loss: counted })));
    const own = screen.getByRole("region", { name: "Lost presses" });
    expect(own.textContent).toContain("It fails by a lost press 1.0 % to 12 % of times");
    expect(own.textContent).toContain("Send Power on twicethen < 0.1 % to 2.0 %+0.4 s");
    fireEvent.click(within(own).getByRole("button", { name: "Display" }));
    expect(seen.at).toBe("kit");
  });

  it("are not claimed where nobody has counted", () => {
    proof(found(cellOf()));
    expect(screen.getByText(/^No tests yet: count lost presses/)).toBeTruthy();
  });

  it("are written short", () => {
    expect([0, 0.0004, 0.032, 0.5].map(percent)).toEqual(["0 %", "< 0.1 %", "3.2 %", "50 %"]);
  });
});

describe("other hands", () => {
  it("are counted, and a wrong one is rehearsed", async () => {
    const hand = { does: "power", device: "d" };
    const hands = [
      {
        device: "d",
        what: "somebody presses its power key",
        left: "off",
        ends_right: false,
        story: null,
        rehearse: hand,
      },
      {
        device: "d",
        what: "somebody turns its input",
        left: "on",
        ends_right: true,
        story: null,
        rehearse: null,
      },
    ];
    const seen = proof(found(cellOf()), { "/hands": hands, "/rehearsal/rate": {}, "/rehearsal/play": {} });
    const summary = await screen.findByText("Other hands: 2 tried, 1 end wrong");
    await userEvent.click(summary);
    await userEvent.click(screen.getByRole("button", { name: "Rehearse it" }));
    await waitFor(() => expect(seen.at).toBe("rehearse"));
    const played = seen.asked.find((one) => one.path.endsWith("/rehearsal/play"))?.body as {
      events: object[];
    };
    expect(played.events).toEqual([
      { at_ms: 0, is: "request", to: { is: "off" } },
      { at_ms: 100_000, is: "hand", hand },
      { at_ms: 115_000, is: "request", to: { is: "in", activity: "film" } },
    ]);
  });
});

describe("the light on the way", () => {
  it("says whom it leaves in the dark, and leads to where that is mended", async () => {
    const light = {
      night: [{ name: "Walls", percent: 0 }],
      day: [],
      wrong: "The step is dark while people leave.",
    };
    const seen = proof(found(cellOf({ light })));
    const own = screen.getByTestId("light-of-cell");
    expect(own.textContent).toContain("By night: Walls 0 %. By day: stays as it is.");
    await userEvent.click(within(own).getByRole("button", { name: "Mend it in Cues" }));
    expect(seen.at).toBe("cues");
  });
});
