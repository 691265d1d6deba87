// Times as people read them, in the browser's zone.
const day = new Intl.DateTimeFormat(undefined, { weekday: "short", day: "numeric", month: "short" });
const clock = new Intl.DateTimeFormat(undefined, { hour: "2-digit", minute: "2-digit", hour12: false });

export function when(iso: string, now = new Date()): string {
  const at = new Date(iso);
  const date = at.toDateString() === now.toDateString() ? "today" : day.format(at);
  return `${date} ${clock.format(at)}`;
}
