// How a cell's value looks and how it is typed.
import { t } from "@lingui/core/macro";
import type { Column } from "../api/client";
import { show } from "../parts/text";
import type { Forms } from "../parts/writing";

export function isNumeric(c: Column): boolean {
  return c.type === "number";
}

// shown gives a value as the grid shows it.
export function shown(v: unknown, c: Column, names: Map<string, string>, forms: Forms = {}): string {
  if (v === null || v === undefined) return "";
  if (c.type === "number") return marked(lookNumber(String(v), c.format), c.format, forms.numbers);
  if (c.type === "person")
    return [v]
      .flat()
      .map((p) => names.get(String(p)) ?? String(p))
      .join(", ");
  if (c.type === "date") return dated(String(v), forms.dates ?? "");
  if (c.type === "date-time") {
    const [day = "", clock = ""] = String(v).split("T");
    return `${dated(day, forms.dates ?? "")} ${clock}`;
  }
  return show(v);
}

const months = "January February March April May June July August September October November December".split(" ");

// dated writes an ISO date as a tracker writes the last of March 2026.
function dated(iso: string, form: string): string {
  const [, year = "", month = "", day = ""] = /^(\d{4})-(\d\d)-(\d\d)$/.exec(iso) ?? [];
  if (year === "") return iso;
  const name = months[Number(month) - 1] ?? month;
  switch (form) {
    case "31.03.2026":
      return `${day}.${month}.${year}`;
    case "31/03/2026":
      return `${day}/${month}/${year}`;
    case "03/31/2026":
      return `${month}/${day}/${year}`;
    case "31 March 2026":
      return `${Number(day)} ${name} ${year}`;
    case "31 Mar 2026":
      return `${Number(day)} ${name.slice(0, 3)} ${year}`;
  }
  return iso;
}

function lookNumber(text: string, format: string | undefined): string {
  if (!/^-?\d/.test(text)) return text;
  switch (format) {
    case undefined:
    case "":
    case "plain":
      return text;
    case "percent":
      return `${Number((Number(text) * 100).toPrecision(12))} %`;
    case "rating":
      return t`${text} of 5`;
    case "duration":
      return hoursAndMinutes(Number(text));
  }
  const [whole = "", part = ""] = text.split(".");
  return `${whole.replace(/\B(?=(\d{3})+$)/g, "\u202f")}.${part.padEnd(2, "0")} ${format}`;
}

// marked writes a number with the marks of a tracker.
function marked(text: string, format: string | undefined, form = ""): string {
  const [group, mark] = marks[form] ?? [];
  if (group === undefined || mark === undefined || format === "duration" || format === "rating") return text;
  return text.replace(/[.\u202f]/g, (c) => (c === "." ? mark : group));
}

const marks: Record<string, [group: string, mark: string]> = {
  "1,234.5": [",", "."],
  "1.234,5": [".", ","],
  "1 234,5": ["\u202f", ","],
};

function hoursAndMinutes(hours: number): string {
  const seconds = Math.round(Math.abs(hours) * 3600);
  const two = (n: number) => String(n).padStart(2, "0");
  const rest = seconds % 60 ? `:${two(seconds % 60)}` : "";
  return `${hours < 0 ? "-" : ""}${Math.floor(seconds / 3600)}:${two(Math.floor(seconds / 60) % 60)}${rest}`;
}

// typed gives a value as one types it.
export function typed(v: unknown): string {
  if (Array.isArray(v)) return v.map(String).join("; ");
  return show(v);
}

const widths: Record<string, number> = {
  number: 104,
  date: 104,
  "date-time": 140,
  checkbox: 72,
  choice: 118,
  person: 132,
  link: 120,
  file: 150,
  text: 170,
};

export function widthOf(c: Column, label: string): number {
  if (c.name === label) return 210;
  const byType = widths[c.type] ?? 150;
  const byName = c.name.length * 8 + 24;
  if (c.type === "text" && /\b(no|number|code|crate)\b/i.test(c.name)) return Math.max(92, Math.min(byName, 130));
  return Math.max(byType, Math.min(byName, 170));
}
