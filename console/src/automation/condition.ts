// A condition as parts that can be chosen, there and back: each part is a column with a
// comparison and a value or, where it is more than that, a clause as it is written.
import { t } from "@lingui/core/macro";
import type { Column } from "../api/client";

export type Part =
  | { kind: "compare"; column: string; op: string; value: string } // value as the clause has it
  | { kind: "clause"; text: string };

export type Condition = { join: "and" | "or"; parts: Part[] };

/** Operators without a value. */
export const alone = ["is blank", "is not blank", "is odd", "changed", "is ticked", "is not ticked"];

const texts = ["is", "is not", "contains", "starts with", "ends with", "is one of"];
const orders = ["is", "is not", ">", ">=", "<", "<="];
const dates = ["is", "before", "after", "on or before", "on or after", "within"];
const blanks = ["is blank", "is not blank"];

/** operators gives the comparisons that suit a column; edits are known where one starts a rule. */
export function operators(column: Pick<Column, "type"> | undefined, edits: boolean): string[] {
  const more = edits ? ["changed", "was"] : [];
  switch (column?.type) {
    case "number":
      return [...orders, ...blanks, ...more];
    case "date":
    case "date-time":
      return [...dates, ...blanks, ...more];
    case "checkbox":
      return ["is ticked", "is not ticked", ...(edits ? ["changed"] : [])];
    case "choice":
    case "person":
      return ["is", "is not", "is one of", "contains", ...blanks, ...more];
    default:
      return [...texts, ...blanks, ...more];
  }
}

const says: Record<string, string> = {
  ">": t`is more than`,
  ">=": t`is at least`,
  "<": t`is less than`,
  "<=": t`is at most`,
  before: t`is before`,
  after: t`is after`,
  "on or before": t`is on or before`,
  "on or after": t`is on or after`,
  within: t`is within the next`,
  is: t`is`,
  "is odd": t`does not fit`,
  changed: t`has changed`,
};

/** opSays gives a comparison as a sentence has it. */
export const opSays = (op: string) => says[op] ?? op;

/** split takes a text apart at a word that stands outside quotes, brackets and parentheses. */
export function split(text: string, word: string): string[] {
  const out: string[] = [];
  let depth = 0;
  let quoted = false;
  let from = 0;
  const lower = text.toLowerCase();
  for (let i = 0; i < text.length; i++) {
    const c = text[i];
    if (c === "\\" && quoted) i++;
    else if (c === '"') quoted = !quoted;
    else if (quoted) continue;
    else if (c === "(" || c === "[" || c === "{") depth++;
    else if (c === ")" || c === "]" || c === "}") depth--;
    else if (depth === 0 && lower.startsWith(` ${word} `, i)) {
      out.push(text.slice(from, i));
      from = i + word.length + 2;
      i = from - 1;
    }
  }
  out.push(text.slice(from));
  return out.map((s) => s.trim());
}

const name = String.raw`(\[[^\]]+\]|[\p{L}_][\p{L}\p{N}_]*)`;
const forms: { pattern: RegExp; op: (found: RegExpExecArray) => string; value: number }[] = [
  { pattern: re(`${name} (is not blank|is blank|is odd|changed)`), op: (f) => f[2] ?? "", value: 0 },
  { pattern: re(`${name} is yes`), op: () => "is ticked", value: 0 },
  { pattern: re(`${name} is no`), op: () => "is not ticked", value: 0 },
  {
    pattern: re(
      `${name} (on or before|on or after|starts with|ends with|contains|before|after|within|is one of|is not|was|is|>=|<=|>|<) (.+)`,
    ),
    op: (f) => f[2] ?? "",
    value: 3,
  },
];

function re(source: string): RegExp {
  return new RegExp(`^${source}$`, "iu");
}

const bare = (text: string) => (text.startsWith("[") ? text.slice(1, -1) : text);

function find<T extends { name: string }>(all: T[], called: string): T | undefined {
  return all.find((c) => c.name.toLowerCase() === called.toLowerCase());
}

function part(text: string, columns: Column[]): Part {
  const own: Part = { kind: "clause", text };
  // between joins two values, and what is compared may not be a chain itself
  if (/\bbetween\b/i.test(text)) return own;
  const box = find(columns, bare(text));
  if (box?.type === "checkbox") return { kind: "compare", column: box.name, op: "is ticked", value: "" };
  const not = /^not (.+)$/i.exec(text);
  const unticked = not?.[1] ? find(columns, bare(not[1])) : undefined;
  if (unticked?.type === "checkbox") return { kind: "compare", column: unticked.name, op: "is not ticked", value: "" };
  for (const f of forms) {
    const found = f.pattern.exec(text);
    const column = found?.[1] ? find(columns, bare(found[1])) : undefined;
    if (!found || !column) continue;
    const value = f.value ? (found[f.value] ?? "").trim() : "";
    if (f.value && !isValue(value)) return own;
    return { kind: "compare", column: column.name, op: f.op(found).toLowerCase(), value };
  }
  return own;
}

// isValue reports whether a text is one value and no more of a clause.
function isValue(text: string): boolean {
  if (/^not\b/i.test(text)) return false;
  return !/\s(and|or|is|was|contains|before|after|within|changed|in|where)\s|[<>=]/i.test(
    text.replace(/"(?:[^"\\]|\\.)*"|\[[^\]]*\]/g, "x"),
  );
}

/** parse reads a condition; one without parts where there is none. */
export function parse(text: string, columns: Column[]): Condition {
  const clean = text.trim();
  if (clean === "") return { join: "and", parts: [] };
  const whole: Condition = { join: "and", parts: [{ kind: "clause", text: clean }] };
  const ands = split(clean, "and");
  const ors = orsOf(clean);
  if (ands.length > 1) {
    // a mixture stands in parentheses, and "between A and B" is no chain
    if (/\bbetween\b/i.test(clean) || ands.some((a) => orsOf(a).length > 1)) return whole;
    return { join: "and", parts: ands.map((a) => part(a, columns)) };
  }
  return { join: ors.length > 1 ? "or" : "and", parts: ors.map((o) => part(o, columns)) };
}

/** read reads a condition so that nothing of it is lost: what would be written otherwise than
 * it was stays one clause. */
export function read(text: string, columns: Column[]): Condition {
  const c = parse(text, columns);
  const same = (s: string) =>
    s
      .replace(/\[([^\]]+)\]/g, "$1")
      .replace(/\s+/g, " ")
      .trim()
      .toLowerCase();
  return same(print(c)) === same(text) ? c : { join: "and", parts: [{ kind: "clause", text: text.trim() }] };
}

// orsOf splits at "or", and not within "on or before".
function orsOf(text: string): string[] {
  const out: string[] = [];
  for (const piece of split(text, "or")) {
    const last = out[out.length - 1];
    if (last !== undefined && /\bon$/i.test(last) && /^(before|after)\b/i.test(piece)) {
      out[out.length - 1] = `${last} or ${piece}`;
    } else out.push(piece);
  }
  return out;
}

const plainName = /^[\p{L}_][\p{L}\p{N}_]*$/u;
const reserved = new Set(
  "and or not is was if then else in where between within before after contains changed blank odd yes no today now tab this one of on starts ends with matches count sum average smallest largest first last each running days workdays distinct".split(
    " ",
  ),
);

/** named writes a column's name as clauses have it. */
export function named(column: string): string {
  return plainName.test(column) && !reserved.has(column.toLowerCase()) ? column : `[${column}]`;
}

function printPart(p: Part, many: boolean): string {
  if (p.kind === "clause") {
    const joined = split(p.text, "and").length > 1 || orsOf(p.text).length > 1;
    return many && joined ? `(${p.text})` : p.text;
  }
  if (p.op === "is ticked") return named(p.column);
  if (p.op === "is not ticked") return `not ${named(p.column)}`;
  if (alone.includes(p.op)) return `${named(p.column)} ${p.op}`;
  return `${named(p.column)} ${p.op} ${p.value}`;
}

/** print writes a condition as a clause. */
export function print(c: Condition): string {
  const parts = c.parts.filter((p) => p.kind === "compare" || p.text.trim() !== "");
  return parts.map((p) => printPart(p, parts.length > 1)).join(` ${c.join} `);
}

/** quote writes a text as a clause has it. */
export const quote = (text: string) => `"${text.replace(/[\\"{}]/g, "\\$&").replace(/\n/g, "\\n")}"`;

/** unquote gives the text that a clause's value is; undefined where it is none, or has holes. */
export function unquote(value: string): string | undefined {
  const m = /^"((?:[^"\\{}]|\\.)*)"$/.exec(value);
  return m?.[1]?.replace(/\\(.)/g, (_, c: string) => (c === "n" ? "\n" : c));
}

/** listed gives the texts of a list such as ("A", "B"); undefined where it is none. */
export function listed(value: string): string[] | undefined {
  if (!value.startsWith("(") || !value.endsWith(")")) return undefined;
  const items = [...value.slice(1, -1).matchAll(/\s*("(?:[^"\\]|\\.)*")\s*(?:,|$)/g)].map((m) => unquote(m[1] ?? ""));
  return items.length > 0 && items.every((x) => x !== undefined) ? items : undefined;
}
