// Times as people read them.
import { t } from "@lingui/core/macro";

const parts = (zone: string | undefined) => ({
  day: new Intl.DateTimeFormat(undefined, { weekday: "short", day: "numeric", month: "short", timeZone: zone }),
  past: new Intl.DateTimeFormat(undefined, { day: "numeric", month: "short", year: "numeric", timeZone: zone }),
  clock: new Intl.DateTimeFormat(undefined, {
    hour: "2-digit",
    minute: "2-digit",
    hour12: false,
    timeZone: zone,
  }),
  date: new Intl.DateTimeFormat("en-CA", { dateStyle: "short", timeZone: zone }),
});

const known = new Map<string, ReturnType<typeof parts>>();

function formats(zone: string | undefined) {
  const key = zone ?? "";
  let f = known.get(key);
  if (!f) {
    try {
      f = parts(zone);
    } catch {
      f = parts(undefined); // a zone that this browser does not know
    }
    known.set(key, f);
  }
  return f;
}

/** todayIn gives the day that it is in a zone, as 2026-03-31. */
export function todayIn(zone: string | undefined, now = new Date()): string {
  return formats(zone).date.format(now);
}

/** when writes a time in the browser's zone. */
export function when(iso: string, now = new Date()): string {
  return written(new Date(iso), undefined, now);
}

function written(at: Date, zone: string | undefined, now: Date): string {
  if (Number.isNaN(at.getTime())) return "";
  const f = formats(zone);
  const [day, thisDay] = [f.date.format(at), f.date.format(now)];
  if (day === thisDay) return t`today ${f.clock.format(at)}`;
  const isThisYear = day.slice(0, 4) === thisDay.slice(0, 4);
  return `${(isThisYear ? f.day : f.past).format(at)} ${f.clock.format(at)}`;
}

/** whenThere writes a time in a tracker's zone, and names that where the browser's differs. */
export function whenThere(iso: string, zone: string, now = new Date()): string {
  const at = new Date(iso);
  const here = written(at, undefined, now);
  const there = written(at, zone, now);
  return here === there ? there : `${there} (${zone})`;
}
