/** Days as the API writes them (`2026-03-01`), counted and named without a clock of their own. */

export const weekdays = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"] as const;

const utc = (day: string) => new Date(`${day}T00:00:00Z`);
const iso = (at: Date) => at.toISOString().slice(0, 10);

/** A day so many days on. */
export function daysOn(day: string, count: number): string {
  const at = utc(day);
  at.setUTCDate(at.getUTCDate() + count);
  return iso(at);
}

/** 0 for Monday. */
export const weekdayNumber = (day: string) => (utc(day).getUTCDay() + 6) % 7;

/** The Monday of a day's week. */
export const mondayOf = (day: string) => daysOn(day, -weekdayNumber(day));

/** Whether a text from an address is a day. */
export const isDay = (text: unknown): text is string =>
  typeof text === "string" && /^\d{4}-\d{2}-\d{2}$/.test(text) && !Number.isNaN(utc(text).getTime());

/** How far a moment's clock is from UTC in a time zone, in minutes. */
function offsetMinutes(at: Date, zone: string): number {
  const parts = new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    hourCycle: "h23",
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    hour: "2-digit",
    minute: "2-digit",
  }).formatToParts(at);
  const of = (type: string) => Number(parts.find((part) => part.type === type)?.value);
  const shown = Date.UTC(of("year"), of("month") - 1, of("day"), of("hour"), of("minute"));
  return Math.round((shown - at.getTime()) / 60_000);
}

/** What a clock in a time zone shows at a moment: `2026-03-01 09:30:00`, as diaries are ruled. */
export function wallClock(moment: string, zone: string): string {
  const at = new Date(moment);
  return new Date(at.getTime() + offsetMinutes(at, zone) * 60_000).toISOString().slice(0, 19).replace("T", " ");
}

/** The moment at which a clock in a time zone shows a day and time. Of an hour that comes twice it is the first; one
 * that is left out when clocks go forward is the moment after it. */
export function momentOf(wall: string, zone: string): string {
  const said = wall.replace("T", " ").slice(0, 16);
  const shown = new Date(`${said.replace(" ", "T")}:00Z`).getTime();
  const day = 24 * 3600_000;
  const [before, after] = [shown - day, shown + day].map((at) => shown - offsetMinutes(new Date(at), zone) * 60_000);
  const found = [before, after].find((at) => wallClock(new Date(at as number).toISOString(), zone).startsWith(said));
  return new Date((found ?? before) as number).toISOString();
}
