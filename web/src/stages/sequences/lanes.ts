import type { Plan, Step } from "../../api/types";

/** A label that has found its place: at x, in a row counted from 0. */
export interface Placed {
  text: string;
  x: number;
  row: number;
}

/** Names of neighbouring commands are joined while they would collide: "Source ▸ Right ▸ Right ▸ OK". */
export function placeLabels(
  steps: { x: number; name: string }[],
  measure: (text: string) => number,
  width: number,
): Placed[] {
  const groups: { x: number; names: string[] }[] = [];
  for (const step of steps) {
    const last = groups.at(-1);
    if (last && last.x + measure(joined(last.names)) + 10 > step.x) last.names.push(step.name);
    else groups.push({ x: step.x, names: [step.name] });
  }
  return groups.map((group) => {
    const text = joined(group.names);
    const x = Math.min(group.x, Math.max(0, width - measure(text) - 4));
    return { text, x, row: 0 };
  });
}

/** "Right, Right" → "Right ×2", joined by ▸. */
function joined(names: string[]): string {
  const runs: { name: string; count: number }[] = [];
  for (const name of names) {
    const last = runs.at(-1);
    if (last?.name === name) last.count += 1;
    else runs.push({ name, count: 1 });
  }
  return runs.map((run) => (run.count > 1 ? `${run.name} ×${run.count}` : run.name)).join(" ▸ ");
}

/** Ticks of a time axis in ms: at most about `most` of them, on round seconds. */
export function timeTicks(end_ms: number, most = 10): number[] {
  const step =
    [500, 1000, 2000, 5000, 10_000, 15_000, 30_000, 60_000, 120_000].find((ms) => end_ms / ms <= most) ??
    300_000;
  return Array.from({ length: Math.floor(end_ms / step) + 1 }, (_, index) => index * step);
}

/** How long the next command of the same device has to wait after this one, in ms; undefined after the last. */
export function waitAfter(plan: Plan, step: Step): number | undefined {
  const next = plan.steps.find((other) => other.device === step.device && other.start_ms > step.start_ms);
  return next && next.start_ms - step.end_ms;
}

/** The steps of a plan as a sheet in CSV (RFC 4180): what to type into any controller. */
export function stepSheet(plan: Plan, deviceName: (id: string) => string): string {
  const cell = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const lines = plan.steps.map((step, index) => {
    const next = plan.steps[index + 1];
    const pause = next ? next.start_ms - step.end_ms : (plan.ready_ms ?? plan.end_ms) - step.end_ms;
    return [
      index + 1,
      step.start_ms,
      deviceName(step.device),
      step.name,
      step.medium,
      Math.max(0, pause),
      step.why,
    ]
      .map((value) => cell(String(value)))
      .join(",");
  });
  return ["step,start_ms,device,command,medium,then_wait_ms,why", ...lines].join("\r\n") + "\r\n";
}
