// A rule as the setup file writes it, and how its parts are read and changed.
import { t } from "@lingui/core/macro";
import type { Column, Tab } from "../api/client";

export type Body = Record<string, unknown>;
export type Step = Record<string, unknown>;
export type Cells = Record<string, unknown>;

export const text = (v: unknown): string => (typeof v === "string" || typeof v === "number" ? String(v) : "");
export const yes = (v: unknown): boolean => v === true || v === "yes";
export const texts = (v: unknown): string[] => (Array.isArray(v) ? v.map(text) : text(v) === "" ? [] : [text(v)]);
export const fields = (v: unknown): Cells =>
  v !== null && typeof v === "object" && !Array.isArray(v) ? (v as Cells) : {};
export const steps = (body: Body): Step[] => (Array.isArray(body.steps) ? body.steps.map(fields) : []);

/** without gives an object without keys whose values say nothing. */
export function without(of: Cells): Cells {
  return Object.fromEntries(
    Object.entries(of).filter(
      ([, v]) => v !== undefined && v !== "" && v !== false && !(Array.isArray(v) && v.length === 0),
    ),
  );
}

/** Why a rule runs. */
export const wakes = ["edit", "new row", "becomes true", "clock", "file", "call"] as const;
export type WakeKind = (typeof wakes)[number];

export const wakeSays: Record<WakeKind, string> = {
  edit: t`a column is edited`,
  "new row": t`a row is added`,
  "becomes true": t`a condition becomes true`,
  clock: t`at a time`,
  file: t`a file arrives`,
  call: t`it is called through the API`,
};

export function wakeOf(body: Body): Cells {
  return fields(body.wake);
}

export function wakeKinds(body: Body): WakeKind[] {
  return wakes.filter((k) => wakeOf(body)[k] !== undefined);
}

const first: Record<WakeKind, unknown> = {
  edit: [],
  "new row": "yes",
  "becomes true": "",
  clock: "weekdays at 08:00",
  file: "intake/*",
  call: "yes",
};

// A rule that files start has no rows: what was chosen last takes the place of what cannot
// go with it.
const ofRows: WakeKind[] = ["edit", "new row", "becomes true"];

/** withWakes gives a rule that runs for these reasons; what they say already stays. */
export function withWakes(body: Body, chosen: WakeKind[]): Body {
  const was = wakeOf(body);
  const files = chosen.includes("file") && (was.file === undefined || !chosen.some((k) => ofRows.includes(k)));
  const kinds = chosen.filter((k) => (files ? !ofRows.includes(k) : k !== "file"));
  if (files) body = without({ ...body, in: undefined, where: undefined });
  if (kinds.length === 0) return { ...body, wake: "hand" };
  const wake = Object.fromEntries(kinds.map((k) => [k, was[k] ?? first[k]]));
  return { ...body, wake: was.missed !== undefined && wake.clock ? { ...wake, missed: was.missed } : wake };
}

export function withWake(body: Body, kind: WakeKind, value: unknown): Body {
  return { ...body, wake: { ...wakeOf(body), [kind]: value } };
}

export const byEdit = (body: Body): boolean => {
  const w = wakeOf(body);
  return w.edit !== undefined || w["new row"] !== undefined || w["becomes true"] !== undefined;
};

/** tabsOf gives the tabs that a rule is for; all of the tracker's where it names none. */
export function tabsOf(body: Body, tabs: Tab[]): Tab[] {
  const names = texts(body.in);
  return names.length === 0 ? tabs : tabs.filter((each) => names.includes(each.name));
}

/** columnsOf gives the columns that any of some tabs has, each name once. */
export function columnsOf(tabs: Tab[]): Column[] {
  const out: Column[] = [];
  for (const each of tabs) for (const c of each.columns) if (!out.some((o) => o.name === c.name)) out.push(c);
  return out;
}

/** What a step does. */
export const kinds = ["move", "set", "copy", "remove", "mail", "put", "take", "write", "tally"] as const;
export type StepKind = (typeof kinds)[number];

export const kindSays: Record<StepKind, string> = {
  move: t`move the row`,
  set: t`set cells`,
  copy: t`copy the row`,
  remove: t`delete the row`,
  mail: t`send an email`,
  put: t`add or update a row`,
  take: t`import the file's rows`,
  write: t`write a file`,
  tally: t`count into a tab`,
};

export function kindOf(step: Step): StepKind {
  return kinds.find((k) => step[k] !== undefined) ?? "set";
}

/** newStep gives a step of a kind for rows of some tabs, to be filled in. */
export function newStep(kind: StepKind, tabs: Tab[], all: Tab[]): Step {
  const columns = columnsOf(tabs);
  const there = all.find((each) => !tabs.includes(each)) ?? all[0];
  const key = there?.columns[0]?.name ?? "";
  switch (kind) {
    case "move":
    case "copy":
      return { [kind]: { to: there?.name ?? "" } };
    case "set":
      return { set: {} };
    case "remove":
      return { remove: "yes" };
    case "mail":
      return { mail: { to: "", show: columns.slice(0, 2).map((c) => c.name) } };
    case "put":
      return { put: { tab: there?.name ?? "", key, values: {} } };
    case "take":
      return { take: { tab: tabs[0]?.name ?? "", key: tabs[0]?.columns[0]?.name ?? "" } };
    case "write":
      return { write: { tab: tabs[0]?.name ?? "", file: `outbound/${tabs[0]?.name ?? "rows"} {today}.xlsx` } };
    case "tally":
      return {
        tally: {
          of: tabs[0]?.name ?? "",
          by: columns[0]?.name ?? "",
          into: there?.name ?? "",
          key,
          figures: { Rows: "count" },
        },
      };
  }
}

/** moved gives a list with one of it a place up or down. */
export function moved<T>(list: T[], from: number, by: number): T[] {
  const to = from + by;
  if (to < 0 || to >= list.length) return list;
  const out = [...list];
  const [one] = out.splice(from, 1);
  if (one !== undefined) out.splice(to, 0, one);
  return out;
}

/** missing says what a rule lacks before it can be saved, in the words of the page. */
export function missing(body: Body): string[] {
  const out: string[] = [];
  if (text(body.name).trim() === "") out.push(t`a name`);
  const w = wakeOf(body);
  if (w.edit !== undefined && texts(w.edit).length === 0) out.push(t`the column whose edit starts it`);
  if (w["becomes true"] !== undefined && text(w["becomes true"]) === "") out.push(t`the condition that becomes true`);
  if (w.clock !== undefined && text(w.clock) === "") out.push(t`its schedule`);
  const all = steps(body);
  if (all.length === 0) out.push(t`a step`);
  all.forEach((s, i) => {
    const kind = kindOf(s);
    const of = fields(s[kind]);
    const nth = all.length > 1 ? t` of step ${i + 1}` : "";
    if (kind === "move" && text(of.to) === "") out.push(t`the tab to move to${nth}`);
    if (kind === "copy" && text(of.to) === "") out.push(t`the tab to copy to${nth}`);
    if (kind === "set" && Object.keys(of).length === 0) out.push(t`the cells to set${nth}`);
    if (kind === "mail" && texts(of.to).length === 0) out.push(t`who gets the email${nth}`);
    if (kind === "take" && (text(of.tab) === "" || text(of.key) === "")) out.push(t`the tab to import into${nth}`);
    if (kind === "write" && text(of.file) === "") out.push(t`the name of the file${nth}`);
    if (kind === "tally" && Object.keys(fields(of.figures)).length === 0) out.push(t`a figure${nth}`);
    if (kind === "put" && Object.keys(fields(of.values)).length === 0) out.push(t`the values${nth}`);
  });
  return out;
}
