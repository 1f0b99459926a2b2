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
  return spread(groups, measure, width);
}

/** Groups from the right: one that would be cut off or lie on the next moves left, or is joined to the one before it. */
function spread(
  groups: { x: number; names: string[] }[],
  measure: (text: string) => number,
  width: number,
): Placed[] {
  const placed: Placed[] = [];
  let limit = width - 4;
  for (let at = groups.length - 1; at >= 0; at -= 1) {
    const group = groups[at];
    if (!group) continue;
    const text = joined(group.names);
    const x = Math.min(group.x, limit - measure(text));
    // Joined to the one before it; the first one to the one after it.
    const first = Math.max(0, at - 1);
    const [one, two] = [groups[first], groups[first + 1]];
    if (x < 0 && one && two) {
      const both = { x: one.x, names: [...one.names, ...two.names] };
      return spread([...groups.slice(0, first), both, ...groups.slice(first + 2)], measure, width);
    }
    placed.unshift(x < 0 ? { text: fitted(text, limit, measure), x: 0, row: 0 } : { text, x, row: 0 });
    limit = x - 10;
  }
  return placed;
}

/** A text that is too long for its place, with … where it was cut. */
function fitted(text: string, room: number, measure: (text: string) => number): string {
  let cut = text;
  while (cut.length > 1 && measure(`${cut}…`) > room) cut = cut.slice(0, -1);
  return `${cut}…`;
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
export function stepSheet(
  plan: Plan,
  deviceName: (id: string) => string,
  of: { house: string; room: string; as_of: string },
): string {
  // What a spreadsheet program would take for a formula is marked as text.
  const harmless = (text: string) => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text);
  const quoted = (text: string) => (/[",\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const cell = (text: string) => quoted(harmless(text));
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
      of.house,
      of.room,
      of.as_of,
    ]
      .map((value) => cell(String(value)))
      .join(",");
  });
  return (
    ["step,start_ms,device,command,medium,then_wait_ms,why,house,room,as_of", ...lines].join("\r\n") + "\r\n"
  );
}
