import { describe, expect, it } from "vitest";
import type { Plan } from "../../api/types";
import { placeLabels, stepSheet, timeTicks, waitAfter } from "./lanes";

const measure = (text: string) => text.length * 7;

describe("labels on a lane", () => {
  it("stand alone where there is room", () => {
    const placed = placeLabels(
      [
        { x: 0, name: "Power on" },
        { x: 400, name: "Source" },
      ],
      measure,
      900,
    );
    expect(placed.map((label) => label.text)).toEqual(["Power on", "Source"]);
  });

  it("are joined where they would collide, repeats counted", () => {
    const steps = ["Source", "Right", "Right", "OK"].map((name, index) => ({ x: 600 + index * 15, name }));
    expect(placeLabels(steps, measure, 900).map((label) => label.text)).toEqual(["Source ▸ Right ×2 ▸ OK"]);
  });

  it("are moved left at the edge instead of being cut", () => {
    const [label] = placeLabels([{ x: 890, name: "Power on" }], measure, 900);
    expect(label?.x).toBe(900 - 8 * 7 - 4);
  });

  it("never lie on each other on a narrow lane: one gives way to the left, or both are joined", () => {
    const steps = [
      { x: 0, name: "Power on" },
      { x: 100, name: "Channel" },
      { x: 180, name: "Enter" },
    ];
    for (const width of [260, 200, 160, 120, 80]) {
      const placed = placeLabels(steps, measure, width);
      placed.forEach((label, at) => {
        const next = placed[at + 1];
        expect(label.x).toBeGreaterThanOrEqual(0);
        expect(label.x + measure(label.text)).toBeLessThanOrEqual(next ? next.x : width);
      });
    }
    expect(placeLabels(steps, measure, 80)[0]?.text).toMatch(/^Power on.*…$/);
  });
});

describe("the time axis", () => {
  it.each([
    [2600, 500, 6],
    [39340, 5000, 8],
    [90000, 10000, 10],
  ])("%d ms has a tick every %d ms, %d in all", (end, step, count) => {
    const ticks = timeTicks(end);
    expect(ticks[1]).toBe(step);
    expect(ticks.length).toBe(count);
  });

  it("has fewer ticks where there is room for four only", () => {
    expect(timeTicks(32000, 4)).toEqual([0, 10000, 20000, 30000]);
  });
});

const plan = {
  ready_ms: 10_000,
  steps: [
    { device: "p", name: "Power on", start_ms: 0, end_ms: 108, medium: "ir", why: "It plays, loudly." },
    { device: "r", name: "Disc", start_ms: 108, end_ms: 216, medium: "ir", why: "" },
    { device: "p", name: "OK", start_ms: 5000, end_ms: 5108, medium: "ir", why: "" },
  ],
} as unknown as Plan;

const OF = { house: "Marram Point", room: "Boat Hall", as_of: "2026-11-28" };

describe("the step sheet", () => {
  it("names each step, and quotes what needs it", () => {
    const lines = stepSheet(plan, (id) => id.toUpperCase(), OF).split("\r\n");
    expect(lines[0]).toBe("step,start_ms,device,command,medium,then_wait_ms,why,house,room,as_of");
    expect(lines[1]).toBe('1,0,P,Power on,ir,0,"It plays, loudly.",Marram Point,Boat Hall,2026-11-28');
    expect(lines[3]).toBe("3,5000,P,OK,ir,4892,,Marram Point,Boat Hall,2026-11-28");
    expect(lines.length).toBe(5);
  });

  it("holds nothing that a spreadsheet program would run", () => {
    const lines = stepSheet(plan, () => '=HYPERLINK("x")', { ...OF, room: "@home" }).split("\r\n");
    expect(lines[1]).toBe(
      `1,0,"'=HYPERLINK(""x"")",Power on,ir,0,"It plays, loudly.",Marram Point,'@home,2026-11-28`,
    );
  });

  it("tells how long a device is left alone", () => {
    const [first, second] = plan.steps;
    expect(first && waitAfter(plan, first)).toBe(4892);
    expect(second && waitAfter(plan, second)).toBeUndefined();
  });
});
