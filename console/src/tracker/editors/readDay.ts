// Days as people type them, reckoned from today. What is not of these kinds is left to the
// service, which reads every other way of writing a date.

const dayNames = ["sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"];

const iso = (d: Date) => d.toISOString().slice(0, 10);

/** plusDays gives the day so many days after another, both as 2026-03-31. */
export function plusDays(day: string, days: number): string {
  const d = new Date(`${day}T00:00:00Z`);
  d.setUTCDate(d.getUTCDate() + days);
  return iso(d);
}

/** readDay reads today, tomorrow, yesterday, the name of a day to come, +3, -2 and +2w. */
export function readDay(text: string, today: string): string | undefined {
  const word = text.trim().toLowerCase();
  const near = { today: 0, tomorrow: 1, yesterday: -1 }[word];
  if (near !== undefined) return plusDays(today, near);
  const [, sign, count, unit] = /^([+-])\s*(\d{1,4})\s*(d|days?|w|weeks?)?$/.exec(word) ?? [];
  if (sign && count) return plusDays(today, Number(sign + count) * (unit?.startsWith("w") ? 7 : 1));
  if (word.length < 3) return undefined;
  const named = dayNames.findIndex((name) => name.startsWith(word.replace(/^(on|next) /, "")));
  if (named < 0 || word.replace(/^(on|next) /, "").length < 3) return undefined;
  const from = new Date(`${today}T00:00:00Z`).getUTCDay();
  return plusDays(today, (named - from + 7) % 7 || 7);
}

/** readMoment reads a day, and the time of day after it. */
export function readMoment(text: string, today: string): string | undefined {
  const [, day = "", clock] = /^(.*?)(?:[ T](\d{1,2}[:.]\d{2}))?$/.exec(text.trim()) ?? [];
  const read = readDay(day, today);
  if (read === undefined || clock === undefined) return read;
  return `${read}T${clock.replace(".", ":").padStart(5, "0")}`;
}

/** moment writes a day and a time of day as one. */
export const moment = (day: string, clock: string | undefined) => (clock ? `${day}T${clock}` : day);

/** dayOf gives the day of a text, and its time of day; today where it is no day. */
export function dayOf(text: string, today: string): { day: string; clock?: string; read?: string } {
  const read = readMoment(text, today);
  const [day = "", clock] = (read ?? text).split("T");
  if (!/^\d{4}-\d\d-\d\d$/.test(day)) return { day: today };
  return { day, clock, read: read === text ? undefined : read };
}

/** morning is the time of day that a date gets where it has none. */
export const morning = "09:00";

/** isoDay is how a day is written as 2026-03-31. */
export const isoDay = "YYYY-MM-DD";
