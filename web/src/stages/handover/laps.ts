import type { Measurement, Timing, TimingKnown } from "../../api/types";

/** A motor runs no longer than so in a quarter of an hour, in ms (common practice for tubular motors). */
const RUNS_MS = 240_000;
const QUARTER_MS = 15 * 60_000;

/** Does something travel in it? */
export const isTravel = (timing: Timing): boolean => timing === "travel-up" || timing === "travel-down";

/** Is the device started for it? */
export const isStart = (timing: Timing): boolean => timing === "warm-up" || timing === "picture";

/** How long a motor has still to rest, in s; 0 where it may run. */
export function restS(readings: readonly Measurement[], device: string, now: number): number {
  const runs = readings
    .filter((own) => own.device === device && own.seen === "house" && isTravel(own.timing))
    .map((own) => ({ at: Date.parse(own.at), ms: own.ms }))
    .filter((own) => now - own.at < QUARTER_MS)
    .sort((a, b) => a.at - b.at);
  let ran = runs.reduce((sum, own) => sum + own.ms, 0);
  for (const own of runs) {
    if (ran < RUNS_MS) break;
    ran -= own.ms;
    if (ran < RUNS_MS) return Math.max(1, Math.ceil((own.at + QUARTER_MS - now) / 1000));
  }
  return 0;
}

/** For how long a lap that begins at `now` would count as hot, in s: the device has not cooled from the one before. */
export function hotForS(
  readings: readonly Measurement[],
  known: Pick<TimingKnown, "device" | "timing">,
  coolDownMs: number,
  now: number,
): number {
  if (!isStart(known.timing)) return 0;
  const left = readings
    .filter((own) => own.device === known.device && own.seen === "house" && isStart(own.timing))
    .map((own) => Date.parse(own.at) + coolDownMs - now);
  return Math.max(0, Math.ceil(Math.max(0, ...left) / 1000));
}
