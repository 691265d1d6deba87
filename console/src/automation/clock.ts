// Times at which something runs, as parts that can be chosen, there and back. What is more
// than that stays as it is written.

export const days = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"];

export type Clock =
  | { every: "day" | "weekday" | "hours" | "month"; at: string; n: number }
  | { every: "week"; at: string; day: string }
  | { every: "other"; text: string };

const time = "(\\d{1,2}:\\d{2})";

/** readClock takes a phrase such as "weekdays at 08:30" apart. */
export function readClock(text: string): Clock {
  const clean = text.trim().toLowerCase();
  let m = new RegExp(`^(daily|weekdays) at ${time}$`).exec(clean);
  if (m) return { every: m[1] === "daily" ? "day" : "weekday", at: m[2] ?? "", n: 1 };
  m = new RegExp(`^(${days.join("|")})s? at ${time}$`).exec(clean);
  if (m) return { every: "week", day: m[1] ?? "", at: m[2] ?? "" };
  m = new RegExp(`^monthly on day (\\d{1,2}) at ${time}$`).exec(clean);
  if (m) return { every: "month", n: Number(m[1]), at: m[2] ?? "" };
  m = /^every (\d+) hours?$/.exec(clean);
  if (m) return { every: "hours", n: Number(m[1]), at: "" };
  return { every: "other", text };
}

/** writeClock writes the phrase. */
export function writeClock(c: Clock): string {
  switch (c.every) {
    case "day":
      return `daily at ${c.at}`;
    case "weekday":
      return `weekdays at ${c.at}`;
    case "week":
      return `${c.day}s at ${c.at}`;
    case "month":
      return `monthly on day ${c.n} at ${c.at}`;
    case "hours":
      return `every ${c.n} hours`;
    case "other":
      return c.text;
  }
}
