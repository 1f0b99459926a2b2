/** Days, clocks and large numbers as the user's own locale writes them. */

/** The locale of whoever looks at the page. */
const locale = (): string | undefined => (typeof navigator === "undefined" ? "en-GB" : navigator.language);

type When = string | number | Date;

/** “29 Nov 2026”. */
export function day(at: When): string {
  return new Date(at).toLocaleDateString(locale(), { dateStyle: "medium" });
}

/** “29 November 2026”, as papers write it. */
export function longDay(at: When): string {
  return new Date(at).toLocaleDateString(locale(), { day: "numeric", month: "long", year: "numeric" });
}

/** “29 Nov”, with the year where that is asked for. */
export function shortDay(at: When, year: boolean): string {
  return new Date(at).toLocaleDateString(locale(), {
    day: "numeric",
    month: "short",
    ...(year ? { year: "numeric" } : {}),
  });
}

/** “29 Nov 2026, 20:30”. */
export function dayTime(at: When): string {
  return new Date(at).toLocaleString(locale(), { dateStyle: "medium", timeStyle: "short" });
}

/** “20:30”. */
export function timeOfDay(at: When): string {
  return new Date(at).toLocaleTimeString(locale(), { timeStyle: "short" });
}

/** A minute of the day: 1230 is “20:30”, or “8:30 pm” where clocks have twelve hours. */
export function minuteClock(minute: number): string {
  const at = new Date(Date.UTC(2026, 0, 1, 0, minute));
  return at.toLocaleTimeString(locale(), { hour: "numeric", minute: "2-digit", timeZone: "UTC" });
}

/** What a person typed as a time of the day, with or without “am” and “pm”; none where it is no time. */
export function typedMinute(text: string): number | undefined {
  const found = /^(\d{1,2})[:.](\d{2})\s*([ap])?\.?m?\.?$/i.exec(text.trim());
  if (!found) return undefined;
  const [hour, minute, half] = [Number(found[1]), Number(found[2]), found[3]?.toLowerCase()];
  if (minute > 59 || (half && (hour < 1 || hour > 12))) return undefined;
  const whole = half ? (hour % 12) + (half === "p" ? 12 : 0) : hour;
  const all = whole * 60 + minute;
  return all <= 1440 ? all : undefined;
}

/** Clock times that the server wrote into a line, as the locale writes them. Durations such as 0:41.2 stay. */
export function localClocks(text: string): string {
  return text.replace(/(?<![\d:])([01]?\d|2[0-3]):([0-5]\d)(?![\d.:])/g, (_, hour: string, minute: string) =>
    minuteClock(Number(hour) * 60 + Number(minute)),
  );
}

/** 1234567 as “1,234,567”, or as the locale groups it. */
export function many(of: number): string {
  return of.toLocaleString(locale());
}
