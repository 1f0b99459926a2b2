/** 41230 ms → "0:41.2", as plans write it. */
export function clockTime(ms: number): string {
  const tenths = Math.round(ms / 100);
  const minutes = Math.floor(tenths / 600);
  const rest = tenths % 600;
  return `${minutes}:${String(Math.floor(rest / 10)).padStart(2, "0")}.${rest % 10}`;
}

/** When something is ready; a dash where it never is. */
export function readyTime(ms: number | null | undefined): string {
  return ms == null ? "–" : clockTime(ms);
}

/** 29400 ms → "29.4 s", as sentences write it. */
export function seconds(ms: number): string {
  const tenths = Math.round(ms / 100);
  return `${tenths % 10 === 0 ? tenths / 10 : (tenths / 10).toFixed(1)} s`;
}

/** A span as "24.1–29.4 s"; a single time where both ends are alike. */
export function spanText(lo_ms: number, hi_ms: number): string {
  if (hi_ms === 0) return "–";
  if (lo_ms === hi_ms) return seconds(hi_ms);
  return `${seconds(lo_ms).replace(" s", "")}–${seconds(hi_ms)}`;
}

/** What a person typed as seconds, in ms; a decimal comma is as good as a point. */
export function parseSeconds(text: string): number | undefined {
  const cleaned = text.trim().replace(",", ".").replace(/\s*s$/, "");
  if (!/^\d+(\.\d+)?$/.test(cleaned)) return undefined;
  return Math.round(Number(cleaned) * 1000);
}
