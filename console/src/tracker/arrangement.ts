// How a tab is looked at: which of its rows, in which order, with which columns. It stands
// in the address, beginning from a named view if there is one.
import { t } from "@lingui/core/macro";
import type { Column, Definition } from "../api/client";
import { quote } from "../automation/condition";
import type { Forms } from "../parts/writing";
import { shown } from "./format";

export type By = { column: string; down: boolean };

// What is ticked of a column's values: the texts of its cells, and these two.
export const blank = "";
export const odd = "\u0000odd";

export type Arrangement = {
  words: string; // that a row holds, in whatever cells
  where: string; // a clause
  picks: Record<string, string[]>; // values ticked, by column
  order: By[];
  columns: string[]; // shown, in this order; none: all
  frozen?: number; // of the columns shown; undefined: as the tab has it
  widths: Record<string, number>; // in pixels, of those that have been changed
};

export const plain: Arrangement = { words: "", where: "", picks: {}, order: [], columns: [], widths: {} };

/** narrows says whether rows are chosen or put in order. */
export const narrows = (a: Arrangement): boolean => filters(a) || a.order.length > 0;

/** filters says whether rows are left out. */
export const filters = (a: Arrangement): boolean =>
  a.words.trim() !== "" || a.where !== "" || Object.keys(a.picks).length > 0;

const bracketed = (name: string) => `[${name}]`;

/** pickClause says by a clause which rows have one of the values ticked. */
export function pickClause(column: Column, values: string[]): string {
  const name = bracketed(column.name);
  const own = values.filter((v) => v !== blank && v !== odd);
  const parts = [];
  if (column.type === "checkbox") {
    if (own.includes("true")) parts.push(name);
    if (own.includes("false")) parts.push(`${name} is no`);
  } else if (column.several) parts.push(...own.map((v) => `${name} contains ${quote(v)}`));
  else if (own.length === 1) parts.push(`${name} is ${literal(column, own[0] ?? "")}`);
  else if (own.length > 1) parts.push(`${name} is one of (${own.map((v) => literal(column, v)).join(", ")})`);
  if (values.includes(blank)) parts.push(`${name} is blank`);
  if (values.includes(odd)) parts.push(`${name} is odd`);
  return parts.length === 1 ? (parts[0] ?? "") : `(${parts.join(" or ")})`;
}

function literal(column: Column, value: string): string {
  return column.type === "number" || column.type === "date" || column.type === "date-time" ? value : quote(value);
}

/** pickText says a ticked value as people read it. */
export function pickText(value: string, column: Column, names: Map<string, string>, forms: Forms): string {
  if (value === blank) return t`blank`;
  if (value === odd) return t`odd`;
  return shown(column.type === "checkbox" ? value === "true" : value, column, names, forms);
}

/** clauseOf joins all that is asked of rows but the words. */
export function clauseOf(a: Arrangement, columns: Column[]): string {
  const parts = columns.flatMap((c) => (a.picks[c.name] ? [pickClause(c, a.picks[c.name] ?? [])] : []));
  if (a.where !== "") parts.push(parts.length > 0 ? `(${a.where})` : a.where);
  return parts.join(" and ");
}

// A name with a comma in it goes in brackets where names stand in a row.
const listed = (name: string) => (name.includes(",") ? bracketed(name) : name);

/** orderText writes an order as the service reads it. */
export const orderText = (order: By[]): string =>
  order.map((by) => listed(by.column) + (by.down ? " descending" : "")).join(", ");

/** split parts a list of names at its commas, those in brackets apart. */
export function split(text: string): string[] {
  return [...text.matchAll(/\s*(\[[^\]]*\][^,]*|[^,]+)/g)].map((m) => (m[1] ?? "").trim()).filter((s) => s !== "");
}

const unbracketed = (name: string) => /^\[(.*)\]$/.exec(name)?.[1] ?? name;

/** parseOrder reads what orderText wrote, of columns that are there. */
export function parseOrder(text: string, columns: Column[]): By[] {
  return split(text).flatMap((part) => {
    const there = (name: string) => columns.find((c) => c.name === unbracketed(name))?.name;
    const whole = there(part);
    if (whole !== undefined) return [{ column: whole, down: false }];
    const [, name = "", way = ""] = /^(.*?)\s*(ascending|descending)$/.exec(part) ?? [];
    const column = there(name);
    return column === undefined ? [] : [{ column, down: way === "descending" }];
  });
}

/** ofView gives the arrangement that a named view keeps. */
export function ofView(view: Definition | undefined, columns: Column[]): Arrangement {
  if (!view) return plain;
  const body = view.body as Record<string, unknown>;
  const text = (key: string) => (typeof body[key] === "string" ? body[key] : "");
  const names = [body.columns ?? []].flat().map(String);
  return {
    ...plain,
    words: text("words"),
    where: text("where"),
    order: parseOrder(text("order"), columns),
    columns: names.filter((n) => columns.some((c) => c.name === n)),
    frozen: typeof body.frozen === "number" ? body.frozen : undefined,
  };
}

/** bodyOf gives what a named view of the arrangement is saved as. */
export function bodyOf(a: Arrangement, name: string, tab: string, columns: Column[]): Record<string, unknown> {
  const body = {
    name,
    tab,
    words: a.words.trim(),
    where: clauseOf(a, columns),
    order: orderText(a.order),
    columns: a.columns,
    frozen: a.frozen,
  };
  return Object.fromEntries(Object.entries(body).filter(([, v]) => v !== "" && v !== undefined && String(v) !== ""));
}

const keys = ["words", "where", "order", "columns", "frozen", "widths", "picks"] as const;

// texts gives an arrangement as it stands in an address.
function texts(a: Arrangement): Record<(typeof keys)[number], string> {
  return {
    words: a.words,
    where: a.where,
    order: orderText(a.order),
    columns: a.columns.map(listed).join(","),
    frozen: a.frozen === undefined ? "" : String(a.frozen),
    widths: Object.keys(a.widths).length > 0 ? JSON.stringify(a.widths) : "",
    picks: Object.keys(a.picks).length > 0 ? JSON.stringify(a.picks) : "",
  };
}

/** write puts an arrangement into an address: what differs from the view that it begins from. */
export function write(query: URLSearchParams, a: Arrangement, from: Arrangement, view: string): URLSearchParams {
  const out = new URLSearchParams(query);
  const now = texts(a);
  const begun = texts(from);
  for (const key of keys) {
    if (now[key] === begun[key]) out.delete(key);
    else out.set(key, now[key]);
  }
  if (view === "") out.delete("view");
  else out.set("view", view);
  return out;
}

/** read gives the arrangement in an address. What it says of columns that are not there is left out. */
export function read(query: URLSearchParams, from: Arrangement, columns: Column[]): Arrangement {
  const there = (name: string) => columns.some((c) => c.name === name);
  const given = <T>(key: (typeof keys)[number], otherwise: T, parse: (text: string) => T): T => {
    const text = query.get(key);
    return text === null ? otherwise : parse(text);
  };
  const frozen = (text: string) => (/^\d+$/.test(text) ? Number(text) : undefined);
  return {
    words: given("words", from.words, String),
    where: given("where", from.where, String),
    order: given("order", from.order, (text) => parseOrder(text, columns)),
    columns: given("columns", from.columns, (text) => split(text).map(unbracketed).filter(there)),
    frozen: given("frozen", from.frozen, frozen),
    widths: given("widths", from.widths, (text) =>
      record(text, (v) => (typeof v === "number" && v >= narrowest ? v : undefined), there),
    ),
    picks: given("picks", from.picks, (text) =>
      record(text, (v) => (Array.isArray(v) && v.length > 0 ? v.map(String) : undefined), there),
    ),
  };
}

/** narrowest is how narrow a column may be, in pixels. */
export const narrowest = 40;

function record<T>(text: string, of: (v: unknown) => T | undefined, there: (name: string) => boolean) {
  const out: Record<string, T> = {};
  try {
    for (const [name, v] of Object.entries(JSON.parse(text || "{}") as Record<string, unknown>)) {
      const value = of(v);
      if (value !== undefined && there(name)) out[name] = value;
    }
  } catch {
    return out; // an address cut short
  }
  return out;
}

/** inAddress says whether an address says anything of an arrangement. */
export const inAddress = (query: URLSearchParams): boolean => ["view", ...keys].some((key) => query.has(key));

/** only gives what of an address is about an arrangement. */
export function only(query: URLSearchParams): URLSearchParams {
  return new URLSearchParams([...query].filter(([key]) => key === "view" || keys.some((k) => k === key)));
}

/** columnsShown gives the columns of an arrangement, in order. */
export function columnsShown(a: Arrangement, columns: Column[]): Column[] {
  if (a.columns.length === 0) return columns;
  return a.columns.flatMap((name) => columns.find((c) => c.name === name) ?? []);
}

/** sortedBy puts a column into the order: alone, or after what is there already. */
export function sortedBy(order: By[], column: string, down: boolean, also: boolean): By[] {
  const by = { column, down };
  if (!also) return [by];
  return order.some((o) => o.column === column) ? order.map((o) => (o.column === column ? by : o)) : [...order, by];
}
