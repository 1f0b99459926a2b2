// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Measurement, TestLine, TimingKnown } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { LogbookView } from "./LogbookView";
import { PapersView } from "./PapersView";
import { saidWords, ServiceView } from "./ServiceView";
import { Strip, stepsOf, stripWords } from "./Strip";
import { leftS, StopwatchView } from "./StopwatchView";
import { long, TestsView } from "./TestsView";

const reading = (id: string, ms: number, more: Partial<Measurement> = {}): Measurement => ({
  id,
  device: "p",
  timing: "warm-up",
  ms,
  seen: "house",
  by_way: "by hand",
  at: "2027-05-03T10:00:00Z",
  who: "R. Ferrow",
  note: "",
  ...more,
});

const known = (more: Partial<TimingKnown> = {}): TimingKnown => ({
  device: "p",
  timing: "warm-up",
  span: "power on → takes commands",
  ends: "longest",
  in_use: { lo_ms: 24_000, hi_ms: 32_000, basis: { from: "assumed" } },
  in_use_percent: null,
  n: 0,
  out: 0,
  rehearsed: 0,
  proposal: null,
  percent: 0,
  more: [
    { percent: 90, more: 9 },
    { percent: 95, more: 19 },
    { percent: 99, more: 99 },
  ],
  outside: 0,
  ...more,
});

const hall = (measurements: Measurement[] = []) =>
  house({
    profiles: [model("projector", "p")],
    devices: [device("p", "Projector")],
    activities: [
      { id: "film", room: "hall", name: "Film", position: 0, source: "p", moves: [] } as never,
      { id: "games", room: "hall", name: "Games", position: 1, source: "p", moves: [] } as never,
    ],
    measurements,
  });

const line = (more: Partial<TestLine> = {}): TestLine => ({
  of: { test: "switch", room: "hall", from: { is: "off" }, to: { is: "in", activity: "film" } },
  kind: "switch",
  title: "Off → Film",
  to_do: "With everything off and settled, start Film.",
  to_see: "Picture and sound of Film within 39 s.",
  care: null,
  takes_s: 60,
  fits_in: false,
  rehearsable: true,
  state: "open",
  because: [],
  result: null,
  ...more,
});

const tests = (lines: TestLine[], round: unknown = null) => ({
  lines,
  done: 0,
  round,
  visit_s: 60,
  waiting_s: 0,
});

// No page listens to the events of a stand-in.
class Silent {
  addEventListener() {}
  close() {}
}

beforeEach(() => {
  localStorage.clear();
  vi.stubGlobal("EventSource", Silent);
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("the strip", () => {
  it("has about six round steps that hold both ends", () => {
    expect(stepsOf(24_100, 32_000)).toEqual([24_000, 26_000, 28_000, 30_000, 32_000]);
    expect(stepsOf(100, 100).length).toBeGreaterThan(1);
  });

  it("says its readings to those who do not see it, and draws what is struck hollow", () => {
    const all = [
      reading("a", 24_100),
      reading("b", 31_000, { struck: "door was open" }),
      reading("c", 60_000, { timed_out: true }),
      reading("d", 25_000, { seen: "rehearsed" }),
    ];
    expect(stripWords(all)).toBe(
      "24.1 s, 31 s (struck: door was open), 60 s (nothing seen until then), 25 s (rehearsed)",
    );
    show(hall(), <Strip readings={all} known={known()} />);
    const drawn = screen.getByRole("img", { name: /Readings: 24\.1 s/ });
    expect(drawn.querySelectorAll("circle.fill-second").length).toBe(1);
    expect(drawn.querySelectorAll("circle.fill-paper").length).toBe(2);
    expect(within(drawn).getByText("a plan waits 32 s")).toBeTruthy();
  });
});

describe("the stopwatch", () => {
  const line = (more: Partial<TimingKnown> = {}) => ({
    known: known(more),
    rehearsed: known(),
    wait: null,
    starts: null,
    back: null,
    look_for: "its picture is there",
    care: "Each lap strikes the lamp once.",
    strikes: 0,
    rests_until: null as string | null,
    hot_until: null as string | null,
  });
  const answers = (more: Partial<TimingKnown> = {}, waits: Partial<ReturnType<typeof line>> = {}) => ({
    "/stopwatch": { lines: [{ ...line(more), ...waits }], open: 3, percent: 90, gaps: [] },
    "/effect": {
      span: { lo_ms: 24_100, hi_ms: 29_400, basis: { from: "measured", n: 9 } },
      changes: [],
      words: ["5 verdicts turn certain."],
    },
  });

  it("keeps a lap of the house as a reading, with the space bar alone", async () => {
    const seen = show(hall(), <StopwatchView />, { answers: answers() });
    await userEvent.click(await screen.findByRole("button", { name: "In the house" }));
    (document.activeElement as HTMLElement).blur();
    await userEvent.keyboard(" ");
    await screen.findByRole("button", { name: /^Stop/ });
    await new Promise((done) => setTimeout(done, 60));
    await userEvent.keyboard(" ");
    const kept = () => seen.asked.find((one) => one.path.endsWith("/stopwatch/lap"))?.body;
    await waitFor(() => expect(kept()).toBeTruthy());
    expect(kept()).toMatchObject({ device: "p", timing: "warm-up", seen: "house", timed_out: false });
    expect((kept() as { ms: number }).ms).toBeGreaterThan(20);
    expect(screen.getByText(/Each lap strikes the lamp/)).toBeTruthy();
  });

  it("lets the rehearsal room begin a lap, and says why it could not", async () => {
    const seen = show(hall(), <StopwatchView />, {
      answers: answers(),
      refuse: "No key of Projector starts this.",
    });
    await userEvent.click(await screen.findByRole("button", { name: /^Start/ }));
    expect(await screen.findByText("No key of Projector starts this.")).toBeTruthy();
    const begun = seen.asked.find((one) => one.path.endsWith("/stopwatch/begin"));
    expect(begun?.body).toEqual({ device: "p", timing: "warm-up" });
    expect(screen.getByRole("button", { name: /^Start/ })).toBeTruthy();
  });

  it("says that a lap would be hot, and starts none while a motor rests", async () => {
    const soon = (s: number) => new Date(Date.now() + s * 1000).toISOString();
    const waits = { hot_until: soon(50), rests_until: soon(400), strikes: 2 };
    show(hall(), <StopwatchView />, { answers: answers({}, waits) });
    expect(await screen.findByText(/So far 2 starts were timed/)).toBeTruthy();
    expect(screen.queryByText(/counts as hot/)).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "In the house" }));
    expect(screen.getByText(/Still cooling for (50|49) s: a lap now counts as hot/)).toBeTruthy();
    expect(screen.getByText("Its motor rests for 7 min.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /^Start/ }));
    expect(screen.getByText(/Let it rest for 7 min/)).toBeTruthy();
    expect(screen.getByRole("button", { name: /^Start/ })).toBeTruthy();
  });

  it("counts how long something still waits, in whole seconds and never below none", () => {
    const now = Date.parse("2027-05-03T10:00:00Z");
    expect(leftS("2027-05-03T10:00:01.2Z", now)).toBe(2);
    expect([leftS("2027-05-03T09:59:00Z", now), leftS(null, now)]).toEqual([0, 0]);
  });

  it("says what taking over would change before it is taken over, and sends that alone", async () => {
    const proposal = { lo_ms: 24_100, hi_ms: 29_400, basis: { from: "measured" as const, n: 9 } };
    const seen = show(hall([reading("a", 24_100)]), <StopwatchView />, {
      answers: answers({ n: 9, percent: 90, proposal }),
    });
    await userEvent.click(await screen.findByRole("button", { name: "In the house" }));
    expect(await screen.findByText("5 verdicts turn certain.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Take 24.1–29.4 s over" }));
    await waitFor(() => expect(seen.asked.some((one) => one.path.endsWith("/stopwatch/take"))).toBe(true));
    expect(seen.asked.find((one) => one.path.endsWith("/take"))?.body).toEqual({
      device: "p",
      timing: "warm-up",
    });
  });

  it("strikes a reading with a reason only", async () => {
    const seen = show(hall([reading("a", 24_100)]), <StopwatchView />, { answers: answers({ n: 1 }) });
    await userEvent.click(await screen.findByText("1 reading, one by one"));
    await userEvent.click(screen.getByRole("button", { name: "Strike …" }));
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Strike" }).disabled).toBe(true);
    await userEvent.type(screen.getByRole("textbox", { name: "Why it is struck" }), "door was open{Enter}");
    await waitFor(() => expect(seen.edits.length).toBe(1));
    expect(seen.edits[0]?.[0]?.entity?.value).toMatchObject({ id: "a", struck: "door was open" });
  });
});

describe("the list of tests", () => {
  it("says how long things take", () => {
    expect([long(45), long(90), long(3_720)]).toEqual(["45 s", "2 min", "1 h 2 min"]);
  });

  it("writes a pass down and goes on to the next one", async () => {
    const other = line({
      of: { test: "switch", room: "hall", from: { is: "off" }, to: { is: "in", activity: "games" } },
      title: "Off → Games",
    });
    const seen = show(hall(), <TestsView />, { answers: { "/tests": tests([line(), other]) } });
    await userEvent.click(await screen.findByRole("button", { name: "Off → Film" }));
    await userEvent.click(screen.getByRole("button", { name: "Passed" }));
    expect(await screen.findByRole("heading", { name: "Off → Games" })).toBeTruthy();
    await waitFor(() => expect(seen.asked.some((one) => one.path.endsWith("/tests/result"))).toBe(true));
    expect(seen.asked.find((one) => one.path.endsWith("/result"))?.body).toMatchObject({
      outcome: "passed",
      of: { test: "switch", to: { is: "in", activity: "film" } },
    });
    await waitFor(() => expect(localStorage.getItem("kestrel-results:h")).toBe("[]"));
  });

  it("asks what was seen before a failure is written down", async () => {
    const seen = show(hall(), <TestsView />, { answers: { "/tests": tests([line()]) } });
    await userEvent.click(await screen.findByRole("button", { name: "Off → Film" }));
    await userEvent.click(screen.getByRole("button", { name: "Failed …" }));
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Write it down" }).disabled).toBe(true);
    await userEvent.type(screen.getByRole("textbox", { name: "What was seen instead" }), "No picture.");
    await userEvent.click(screen.getByRole("button", { name: "Write it down" }));
    await waitFor(() => expect(seen.asked.some((one) => one.path.endsWith("/tests/result"))).toBe(true));
    expect(seen.asked.find((one) => one.path.endsWith("/result"))?.body).toMatchObject({
      outcome: "failed",
      note: "No picture.",
    });
  });

  it("tells why a test is stale, and what was refused", async () => {
    const stale = line({ state: "stale", because: ["the code of Disc on Receiver was changed"] });
    show(hall(), <TestsView />, {
      answers: { "/tests": tests([stale]) },
      refuse: "This test is not on the list.",
    });
    expect(await screen.findByText("the code of Disc on Receiver was changed")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Off → Film" }));
    await userEvent.click(screen.getByRole("button", { name: "Passed" }));
    expect(await screen.findByText("This test is not on the list.")).toBeTruthy();
  });

  it("shows the round with what fits into a wait", async () => {
    const label = line({
      of: { test: "label", surface: "s" },
      title: "Labels of Keypad",
      kind: "label",
      fits_in: true,
    });
    const round = {
      stops: [
        {
          from: { is: "off" },
          to: { is: "in", activity: "film" },
          wanted: true,
          at_s: 0,
          takes_s: 60,
          waits_s: 40,
          fits: [1],
        },
        {
          from: { is: "in", activity: "film" },
          to: { is: "off" },
          wanted: false,
          at_s: 60,
          takes_s: 90,
          waits_s: 80,
          fits: [],
        },
      ],
      takes_s: 150,
      waits_s: 120,
      bound_s: 150,
      words: "1 switch in 2 min 30 s, 2 min of it waiting; no shorter round exists.",
    };
    show(hall(), <TestsView />, { answers: { "/tests": tests([line(), label], round) } });
    await userEvent.click(await screen.findByText(/no shorter round exists/));
    const list = screen.getByRole("list", { name: "Switches of the round" });
    expect(within(list).getByText("meanwhile: Labels of Keypad")).toBeTruthy();
    expect(within(list).getByText("(Film → Off)")).toBeTruthy();
  });
});

describe("papers", () => {
  const answers = {
    "/handovers": [
      {
        number: 1,
        at: "2027-05-03T10:00:00Z",
        who: "R. Ferrow",
        revision: 4,
        note: "First part",
        rooms: [],
        papers: ["client", "record"],
      },
    ],
    "/orders": [
      { order: null, room: "hall", what: "Power sensor", quantity: 1, state: "wanted", why: "only toggled" },
    ],
    "/compare": [{ kind: "profile", text: "Warm up longest time 29.4 s → 31.4 s." }],
  };

  it("leaves chapters out by the address, and compares today in sentences", async () => {
    show(hall(), <PapersView />, { answers });
    await userEvent.click(screen.getByText("Chapters of the record"));
    await userEvent.click(screen.getByRole("checkbox", { name: "Cues" }));
    const open = screen.getAllByRole<HTMLAnchorElement>("link", { name: "Open and print" })[0];
    expect(open?.href).toContain("without=cues");
    expect(open?.href).not.toContain("secrets");
    await userEvent.click(await screen.findByRole("button", { name: "Today against it" }));
    expect(await screen.findByText("Warm up longest time 29.4 s → 31.4 s.")).toBeTruthy();
  });

  it("writes down what the house asks for as an order", async () => {
    const seen = show(hall(), <PapersView />, { answers });
    const list = screen.getByRole("region", { name: "Order list" });
    await within(list).findByText("Power sensor");
    await userEvent.click(
      (await within(list).findAllByRole("button", { name: "Write it down" }))[0] as HTMLElement,
    );
    await waitFor(() => expect(seen.edits.length).toBe(1));
    expect(seen.edits[0]?.[0]?.entity).toMatchObject({
      entity: "order",
      value: { what: "Power sensor", quantity: 1, state: "wanted", room: "hall" },
    });
  });
});

describe("the logbook", () => {
  it("filters by asking the server, and puts the house back only when one is sure", async () => {
    const answers = {
      "/logbook": [
        {
          at: "2027-05-03T10:00:00Z",
          kind: "edit",
          who: "R. Ferrow",
          text: "Projector: name",
          rooms: ["hall"],
          devices: ["p"],
          revision: 3,
          undone: false,
          photo: null,
          minutes: null,
        },
      ],
      "/as-it-was/3": [
        { kind: "device", id: "p", text: "Projector: name “A” → “B”." },
        { kind: "measurement", id: null, text: "3 readings are new." },
      ],
    };
    const seen = show(hall(), <LogbookView />, { answers });
    await userEvent.click(await screen.findByRole("button", { name: "As it was" }));
    expect(await screen.findByText("Projector: name “A” → “B”.")).toBeTruthy();
    expect(seen.asked.some((one) => one.method === "POST")).toBe(false);
    await userEvent.click(screen.getByRole("button", { name: "Put the house back as it was …" }));
    await userEvent.click(screen.getByRole("button", { name: "Put the house back" }));
    const bodies = () => seen.asked.filter((one) => one.path.endsWith("/as-it-was")).map((one) => one.body);
    await waitFor(() => expect(bodies()).toEqual([{ revision: 3, only: null }]));
    // One thing alone goes back at once: undo takes it back. Evidence has no way back.
    expect(screen.getAllByRole("button", { name: /^Put back: / })).toHaveLength(1);
    await userEvent.click(screen.getByRole("button", { name: "Put back: Projector: name “A” → “B”." }));
    await waitFor(() => expect(bodies()[1]).toEqual({ revision: 3, only: { kind: "device", id: "p" } }));
  });
});

describe("a service call", () => {
  it("says what was ticked as a sentence", () => {
    expect(saidWords({ picture: true, sound: false, before: "power-cut", answers: {} })).toBe(
      "picture is fine, no sound since a power cut",
    );
    expect(saidWords({ answers: {} })).toBe("");
  });

  it("asks the next question, sends its answer, and writes the outcome down", async () => {
    const answers = {
      "/service": {
        causes: [
          {
            id: "mute p",
            device: "p",
            text: "It is muted.",
            remedy: "Press louder.",
            order: null,
            becomes_story: true,
            percent: 60,
          },
        ],
        next: { id: "lamp p", text: "Is the small lamp lit?" },
        tells_bits: 0.6,
        check: "Press louder.",
      },
      "/calls": [],
      "/outcome": { line: "1", story: "Call of 3 May: muted", saved: null },
    };
    const seen = show(hall(), <ServiceView />, { answers });
    expect((await screen.findByTestId("next-question")).textContent).toBe("Is the small lamp lit?");
    await userEvent.click(screen.getByRole("button", { name: "No" }));
    await waitFor(() => {
      const bodies = seen.asked.filter((one) => one.path.endsWith("/service")).map((one) => one.body);
      expect(bodies).toContainEqual(expect.objectContaining({ answers: { "lamp p": false } }));
    });
    await userEvent.selectOptions(await screen.findByRole("combobox", { name: "Cause" }), "mute p");
    await userEvent.click(screen.getByRole("button", { name: "Write it down" }));
    await waitFor(() => expect(seen.asked.some((one) => one.path.endsWith("/outcome"))).toBe(true));
    expect(seen.asked.find((one) => one.path.endsWith("/outcome"))?.body).toMatchObject({
      cause: "mute p",
      story: true,
      says: { answers: { "lamp p": false } },
    });
  });
});
