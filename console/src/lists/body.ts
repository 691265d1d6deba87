// Lists and syncs as the setup file writes them.
import { t } from "@lingui/core/macro";
import type { Column, ListSample, Row, Tab } from "../api/client";
import { fields, text, without, type Body, type Cells } from "../rules/body";

/** Where records come from. */
export const sources = ["http", "file", "tasks", "postgres", "sqlite"] as const;
export type Source = (typeof sources)[number];

export const sourceSays: Record<Source, string> = {
  http: t`a web service (JSON)`,
  file: t`a file: CSV, JSON or workbook`,
  tasks: t`a task list (CalDAV)`,
  postgres: t`a PostgreSQL database`,
  sqlite: t`an SQLite database`,
};

export const placeholders: Record<Source, string> = {
  http: "https://lists.example.org/lenders",
  file: "lists/monthly.xlsx",
  tasks: "https://tasks.example.org/home/",
  postgres: "postgres://reader@db.example.org/loans",
  sqlite: "lists/loans.db",
};

export const sourceOf = (body: Body): Source => sources.find((s) => fields(body.from)[s] !== undefined) ?? "http";

export function listLacks(body: Body): string[] {
  const out: string[] = [];
  if (text(body.name).trim() === "") out.push(t`a name`);
  if (text(fields(body.from)[sourceOf(body)]).trim() === "") out.push(t`where the records are`);
  return out;
}

export function syncLacks(body: Body): string[] {
  const out: string[] = [];
  if (text(body.name).trim() === "") out.push(t`a name`);
  if (text(body.list) === "") out.push(t`a list`);
  if (text(body.tab) === "") out.push(t`a tab`);
  if (Object.values(fields(body.key)).every((v) => text(v) === "")) out.push(t`the key that both sides have`);
  if (Object.keys(fields(body.fields)).length === 0) out.push(t`at least one field`);
  return out;
}

const plain = (s: string) => s.toLowerCase().replace(/[^\p{L}\p{N}]/gu, "");

const said = (v: unknown) => (v === null || v === undefined ? "" : String(v).trim().toLowerCase());

// sharing gives the field most of whose samples stand in a column.
function sharing(c: Column, free: Set<string>, sample: ListSample, rows: Row[]): string | undefined {
  const stands = new Set(rows.map((r) => said(r.cells[c.name])).filter((v) => v !== ""));
  const share = ({ samples }: ListSample["fields"][number]) =>
    samples.filter((s) => stands.has(said(s))).length / Math.max(1, samples.length);
  const best = sample.fields.filter((f) => free.has(f.at)).sort((a, b) => share(b) - share(a))[0];
  return best && share(best) >= 0.5 ? best.at : undefined;
}

/** pairs guesses which field goes with which column: by their names, whole or the last part of
 * a field's path, and where these say nothing by values that both sides have. */
export function pairs(tab: Tab, sample: ListSample, rows: Row[] = []): { key: Cells; fields: Cells } {
  const free = new Set(sample.fields.map((f) => f.at));
  const find = (c: Column) =>
    [...free].find((at) => plain(at) === plain(c.name)) ??
    [...free].find((at) => plain(at.slice(at.lastIndexOf("/") + 1)) === plain(c.name)) ??
    [...free].find((at) => plain(c.name).length > 3 && plain(at).includes(plain(c.name)));
  const out: Cells = {};
  for (const c of tab.columns) {
    if (c.clause) continue;
    const at = find(c);
    if (at === undefined) continue;
    free.delete(at);
    out[c.name] = at;
  }
  for (const c of tab.columns) {
    const at = c.clause || out[c.name] ? undefined : sharing(c, free, sample, rows);
    if (at === undefined) continue;
    free.delete(at);
    out[c.name] = at;
  }
  // the key is the column paired with what tells records apart, or the first that looks like one
  const byId = Object.entries(out).find(([, at]) => at === sample.id);
  const named = tab.columns.find((c) => !c.clause && /\b(no|id|number|key|code|policy)\b/i.test(c.name));
  const key: Cells = byId ? { [byId[0]]: byId[1] } : named && sample.id ? { [named.name]: sample.id } : {};
  const rest = Object.fromEntries(
    Object.entries(out).filter(([name, at]) => !(name in key) && at !== Object.values(key)[0]),
  );
  return { key, fields: rest };
}

/** withFrom changes where a list comes from. */
export const withFrom = (body: Body, more: Cells): Body => ({
  ...body,
  from: without({ ...fields(body.from), ...more }),
});

/** cursorAs guesses by which parameter a list is asked for the page at a cursor. */
export const cursorAs = (cursor = "") => {
  const last = cursor.slice(cursor.lastIndexOf("/") + 1);
  if (last === "next") return "after";
  return last.replace(/^next_/, "").replace(/^next([A-Z])/, (_, letter: string) => letter.toLowerCase());
};
