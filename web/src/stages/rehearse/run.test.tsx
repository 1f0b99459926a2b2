// @vitest-environment jsdom
import { cleanup, fireEvent, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { RehearsalView, RunView } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { LightPart } from "./LightPart";
import { Run } from "./Run";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const own = (part: object = {}) =>
  house({
    profiles: [model("display", "d"), model("receiver", "amp")],
    devices: [device("d", "Display"), device("amp", "Amp")],
    activities: [{ id: "film", name: "Feature film", room: "hall", position: 0 }] as never,
    ...part,
  });

const step = (name: string, state: string, on = "d") => ({ name, device: on, state, index: 0 });

const run = (part: object = {}): RunView =>
  ({
    number: 1,
    to: { is: "in", activity: "film" },
    started_ms: 1_000,
    ended_ms: null,
    ready_ms: 20_000,
    end: null,
    steps: [step("Power on", "sent"), step("HDMI 1", "waiting")],
    confirmed: [],
    proved: [],
    unconfirmed: [],
    troubles: [],
    offers: [],
    in_truth: [],
    derived_anew: 0,
    cause: "asked",
    ...part,
  }) as unknown as RunView;

function shown(one: RunView) {
  const ask = vi.fn();
  show(own(), <Run run={one} view={{ now_ms: 6_000 } as RehearsalView} ask={ask} />);
  return { ask, status: screen.getByTestId("run") };
}

describe("a run", () => {
  it("says how far it is, and what comes next", () => {
    const { status } = shown(run());
    expect(status.dataset["end"]).toBe("running");
    expect(status.textContent).toContain("Feature film 0:05.0 of 0:20.0");
    expect(status.textContent).toContain("1 of 2 commands sent, next “HDMI 1” to Display");
    expect(screen.queryByTestId("in-truth")).toBeNull();
  });

  it("that is ready says who said so, what is proved, and of what nothing says so", () => {
    const { status } = shown(
      run({ end: "ready", ended_ms: 19_000, confirmed: ["amp"], proved: ["d"], unconfirmed: ["amp"] }),
    );
    expect(status.textContent).toContain("Ready after 0:18.0");
    expect(status.textContent).toContain("Amp said so. Display: proved, whatever it was before. ");
    expect(status.textContent).toContain("Nothing says so of Amp.");
    expect(screen.getByTestId("in-truth").textContent).toContain("everything is as it should be.");
  });

  it("that failed says which command, why, and what is so in truth", () => {
    const { status } = shown(
      run({
        end: "failed",
        ended_ms: 3_000,
        steps: [step("Power on", "failed", "amp")],
        troubles: ["The gateway does not answer."],
        in_truth: ["Amp is off."],
      }),
    );
    expect(status.textContent).toContain("“Power on” to Amp failed");
    expect(within(status).getByRole("listitem").textContent).toBe("The gateway does not answer.");
    expect(screen.getByTestId("in-truth").textContent).toContain("Amp is off.");
  });

  it("that was derived anew says how often, and why it was begun", () => {
    const { status } = shown(run({ derived_anew: 2, cause: "completed" }));
    expect(status.textContent).toContain("derived anew twice");
    expect(status.textContent).toContain("to complete what was adopted");
  });

  it("offers ways to go on, each with how long it takes", async () => {
    const offers = [
      { text: "Go on to Feature film", to: { is: "in", activity: "film" }, ready_ms: 12_000, sends: 1 },
    ];
    const { ask } = shown(run({ end: "stopped", ended_ms: 4_000, offers }));
    const way = screen.getByRole("button", { name: /^Go on to Feature film/ });
    expect(way.textContent).toContain("12 s, 1 command");
    await userEvent.click(way);
    expect(ask).toHaveBeenCalledWith({ is: "in", activity: "film" });
  });

  it("to the end of the room is called by what it does", () => {
    const { status } = shown(run({ to: { is: "off" } }));
    expect(status.textContent).toContain("Finish");
  });
});

describe("the light of the rehearsal room", () => {
  const lighting = {
    zones: [{ id: "walls", name: "Walls" }],
    looks: [],
    cues: [],
    switches: [{ id: "guests", name: "Guests" }],
    exit: null,
  };
  const light = {
    dark: true,
    time: "2027-01-15T20:30",
    switches: [{ switch: "guests", on: false }],
    zones: [{ zone: "walls", percent: 42.4 }],
    fired: [
      { at_ms: 1_000, cue: "a", held: null },
      { at_ms: 2_000, cue: "b", held: "nobody is in the room" },
    ],
  };
  const part = (zones = lighting.zones) => {
    const actions = { time: { mutate: vi.fn() }, flip: { mutate: vi.fn() } };
    show(
      own({ rooms: [{ id: "hall", name: "Hall", position: 0, lighting: { ...lighting, zones } }] as never }),
      <LightPart view={{ light } as never} actions={actions as never} />,
      { answers: { "/cues": { lines: [{ cue: "a", moment: "the film starts" }], starts: [] } } },
    );
    return actions;
  };

  it("says how bright every zone is, and which cues fired last, the newest first", async () => {
    part();
    expect(screen.getByTestId("zones").textContent).toContain("Walls");
    expect(screen.getByTestId("zones").textContent).toContain("42 %");
    const fired = screen.getByRole("list", { name: "Cues that fired last" });
    expect(await within(fired).findByText(/the film starts/)).toBeTruthy();
    const lines = within(fired)
      .getAllByRole("listitem")
      .map((one) => one.textContent);
    expect(lines[0]).toContain("did not fire: nobody is in the room");
    expect(lines[1]).toContain("fired");
  });

  it("takes another time of the world once it is typed whole", () => {
    const { time } = part();
    const field = screen.getByLabelText("Time of the world");
    fireEvent.change(field, { target: { value: "2027-06-21T12:00" } });
    expect(time.mutate).not.toHaveBeenCalled();
    fireEvent.blur(field);
    expect(time.mutate).toHaveBeenCalledWith("2027-06-21T12:00");
  });

  it("flips mode switches", async () => {
    const { flip } = part();
    await userEvent.click(screen.getByRole("checkbox", { name: "Guests" }));
    expect(flip.mutate).toHaveBeenCalledWith({ switch: "guests", on: true });
  });

  it("is nothing where nothing is dimmed", () => {
    part([]);
    expect(screen.queryByRole("region", { name: "Light" })).toBeNull();
  });
});
