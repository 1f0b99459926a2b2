// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Plan } from "../../api/types";
import { device, model } from "../../testing/house";
import { Lanes } from "./Lanes";

/** How wide the drawing is. */
let wide = 900;

beforeEach(() => {
  wide = 900;
  vi.stubGlobal(
    "ResizeObserver",
    class {
      constructor(private readonly changed: () => void) {}
      observe(element: HTMLElement) {
        Object.defineProperty(element, "clientWidth", { value: wide, configurable: true });
        this.changed();
      }
      disconnect() {}
    },
  );
  // Every letter is as wide as any other.
  HTMLCanvasElement.prototype.getContext = (() => ({
    measureText: (text: string) => ({ width: text.length * 6.6 }),
  })) as never;
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const step = (index: number, own: string, name: string, start_ms: number, part: object = {}) => ({
  index,
  device: own,
  name,
  start_ms,
  end_ms: start_ms + 110,
  critical: false,
  code: {},
  ...part,
});

const wait = (own: string, from_ms: number, to_ms: number, label: string, part: object = {}) => ({
  device: own,
  from_ms,
  to_ms,
  label,
  effect: "warm-up",
  critical: false,
  span: { lo_ms: to_ms - from_ms, hi_ms: to_ms - from_ms, basis: { from: "profile" } },
  ...part,
});

const plan = (part: object = {}): Plan =>
  ({
    from: { is: "off" },
    to: { is: "in", activity: "film" },
    steps: [step(0, "amp", "Power on", 0, { critical: true }), step(1, "lamp", "Power on", 200)],
    waits: [wait("lamp", 310, 30_000, "warms up, 30 s · measured", { critical: true })],
    ready_ms: 30_000,
    bound_ms: 29_000,
    end_ms: 30_000,
    ...part,
  }) as unknown as Plan;

const devices = [device("amp", "Amp"), device("lamp", "Projector"), device("box", "Streamer")];
const profiles = [model("receiver", "amp"), model("projector", "lamp"), model("streamer", "box")];

const drawn = (own: Plan, now_ms?: number) =>
  render(
    <Lanes plan={own} devices={devices} profiles={profiles} {...(now_ms !== undefined && { now_ms })} />,
  );

describe("a plan as lanes over time", () => {
  it("is named by what it does, when it is ready and what no plan can beat", () => {
    drawn(plan());
    expect(
      screen.getByRole("img", { name: /^Plan: 2 commands to 2 devices, ready after 0:30.*, bound 0:29/ }),
    ).toBeTruthy();
  });

  it("has a lane for what is told something, and none for the others", () => {
    drawn(plan());
    const drawing = screen.getByRole("img");
    expect(drawing.textContent).toContain("Amp");
    expect(drawing.textContent).toContain("Projector");
    expect(drawing.textContent).not.toContain("Streamer");
  });

  it("draws what decides apart from the rest, and what nobody has measured dashed", () => {
    drawn(
      plan({
        waits: [
          wait("lamp", 310, 30_000, "warms up", { critical: true }),
          wait("amp", 110, 4_000, "starts", {
            span: { lo_ms: 1, hi_ms: 2, basis: { from: "assumed" } },
          }),
        ],
      }),
    );
    const bars = [...document.querySelectorAll("rect")].filter((bar) =>
      bar.querySelector("title")?.textContent?.match(/^(warms|starts)/),
    );
    expect(bars.map((bar) => bar.getAttribute("stroke-dasharray"))).toEqual(["3 3", null]);
    const ticks = [...document.querySelectorAll("rect")].filter((bar) =>
      bar.querySelector("title")?.textContent?.startsWith("Power on at"),
    );
    expect(ticks.map((tick) => tick.getAttribute("class"))).toEqual(["fill-accent", "fill-ink"]);
  });

  it("ends a wait at the next command of its device", () => {
    drawn(
      plan({
        steps: [step(0, "amp", "Power on", 0), step(1, "amp", "Disc", 10_000)],
        waits: [wait("amp", 110, 30_000, "starts")],
      }),
    );
    const bar = [...document.querySelectorAll("rect")].find(
      (own) => own.querySelector("title")?.textContent === "starts",
    );
    const tick = [...document.querySelectorAll("rect")].find((own) =>
      own.querySelector("title")?.textContent?.startsWith("Disc at"),
    );
    const end = Number(bar?.getAttribute("x")) + Number(bar?.getAttribute("width"));
    expect(Math.abs(end - Number(tick?.getAttribute("x")))).toBeLessThan(1);
  });

  it("says which key has no code", () => {
    drawn(plan({ steps: [step(0, "amp", "Disc", 0, { code: null })] }));
    expect(screen.getByRole("img").textContent).toContain("Disc (no code)");
    const tick = [...document.querySelectorAll("rect")].find((own) =>
      own.querySelector("title")?.textContent?.startsWith("Disc at"),
    );
    expect(tick?.getAttribute("class")).toContain("stroke-stop");
  });

  it("says where picture and sound are there, or that everything is off", () => {
    drawn(plan());
    expect(screen.getByRole("img").textContent).toMatch(/picture and sound 0:30.*bound 0:29/);
    cleanup();
    drawn(plan({ to: { is: "off" } }));
    expect(screen.getByRole("img").textContent).toContain("all off 0:30");
  });

  it("that cannot be sent has no end", () => {
    drawn(plan({ ready_ms: null }));
    expect(screen.getByRole("img", { name: /cannot be sent/ })).toBeTruthy();
    expect(screen.getByRole("img").textContent).not.toContain("picture and sound");
  });

  it("shows the moment that is looked at", () => {
    drawn(plan(), 15_000);
    const now = document.querySelector("line.stroke-second");
    // In the middle between the names and the edge.
    expect(Math.round(Number(now?.getAttribute("x1")))).toBe(Math.round(118 + (900 - 14 - 118) / 2));
    cleanup();
    drawn(plan(), 99_000);
    expect(document.querySelector("line.stroke-second")).toBeNull();
  });

  it("shortens names that do not fit beside the lanes", () => {
    render(
      <Lanes
        plan={plan()}
        devices={[device("amp", "The receiver in the cupboard under the stairs")]}
        profiles={profiles}
      />,
    );
    expect(screen.getByRole("img").textContent).toMatch(/The rec[a-z ]*…/);
  });

  it("is not drawn where there is no room", () => {
    wide = 0;
    drawn(plan());
    expect(screen.queryByRole("img")).toBeNull();
  });
});
