// Kinds of page (dossiers) as the setup file writes them.
import { t } from "@lingui/core/macro";
import { named } from "../automation/condition";
import type { Tab } from "../api/client";
import { fields, text, texts, type Body, type Cells } from "../rules/body";

export type Fact = { column: string; once: boolean };

export const readFacts = (list: unknown): Fact[] =>
  Array.isArray(list)
    ? list.map((x: unknown) =>
        typeof x === "string" ? { column: x, once: false } : { column: Object.keys(fields(x))[0] ?? "", once: true },
      )
    : [];

export const writeFacts = (all: Fact[]): unknown[] =>
  all.map((f) => (f.once ? { [f.column]: "filled once" } : f.column));

/** Columns of a page's own, or of its log: a name with a type. */
export const typeOf = (how: unknown): string => text(fields(how).type) || "text";

export const withType = (how: unknown, type: string): Cells => ({ ...fields(how), type });

/** Which rows of another tab a table shows: those whose column says what one of the row says. */
export type Concerns = { column: string; own: string };

const plainName = (text: string) => text.trim().replace(/^\[(.*)\]$/, "$1");

/** readConcerns takes "Venue is this.Name" apart; undefined where a clause is more than that. */
export function readConcerns(where: string): Concerns | undefined {
  const m = /^(\[[^\]]*\]|\w+) is this\.(\[[^\]]*\]|\w+)$/.exec(where.trim());
  return m?.[1] && m[2] ? { column: plainName(m[1]), own: plainName(m[2]) } : undefined;
}

export const writeConcerns = (c: Concerns): string => `${named(c.column)} is this.${named(c.own)}`;

export function patternLacks(body: Body): string[] {
  const out: string[] = [];
  if (text(body.name).trim() === "") out.push(t`a name`);
  if (texts(body.for).length === 0) out.push(t`the tabs whose rows have pages`);
  if (text(body.title).trim() === "") out.push(t`a title`);
  return out;
}

/** A kind of page to begin with: the first columns of a tab, and a log. */
export function newPattern(tab?: Tab): Body {
  const columns = tab?.columns.filter((c) => !c.clause) ?? [];
  const first = tab?.label || columns[0]?.name;
  return {
    name: "",
    for: tab?.name ?? "",
    title: first ? `{${named(first)}}` : "",
    facts: columns.slice(0, 4).map((c) => c.name),
    log: { columns: { When: { type: "date", default: "today" }, What: { type: "text", required: "yes" } } },
  };
}
