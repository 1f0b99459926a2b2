import type { LiveNow, LiveView } from "../api/types";

type Zone = LiveNow["zones"][number];
type May = NonNullable<LiveView["may"]>;

/** All lamps together from one mean level to another: each keeps its share of it, within the limits. */
export function spread(
  zones: Zone[],
  mean: number,
  to: number,
  may: May,
): { zone: string; percent: number }[] {
  const within = (percent: number) =>
    Math.round(Math.min(may.most_percent, Math.max(may.least_percent, percent)));
  return zones.map((zone) => ({
    zone: zone.zone,
    percent: within(mean > 0 ? (zone.percent * to) / mean : to),
  }));
}
