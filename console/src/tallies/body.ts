// Charts (tallies) as the setup file writes them.
import { t } from "@lingui/core/macro";
import { named } from "../automation/condition";
import type { Column, Tracker } from "../api/client";
import { fields, text, texts, type Body } from "../rules/body";

export const whats = ["count", "sum", "average", "median", "smallest", "largest", "count distinct", "share"] as const;
export type What = (typeof whats)[number];
export const whatSays: Record<What, string> = {
  count: t`number of rows`,
  sum: t`sum of`,
  average: t`average of`,
  median: t`median of`,
  smallest: t`smallest`,
  largest: t`largest`,
  "count distinct": t`number of different`,
  share: t`share of`,
};

export const periods = ["", "day", "week", "month", "quarter", "year"] as const;

export type Figure = { what: What; of: string };

/** readFigure takes a figure such as "sum Value" apart; undefined where it is more than that. */
export function readFigure(written: string, columns: Column[]): Figure | undefined {
  for (const what of [...whats].sort((a, b) => b.length - a.length)) {
    if (written === what) return { what, of: "" };
    if (!written.startsWith(`${what} `)) continue;
    const of = written
      .slice(what.length + 1)
      .trim()
      .replace(/^\[(.*)\]$/, "$1");
    return columns.some((c) => c.name === of) ? { what, of } : undefined;
  }
  return undefined;
}

export const writeFigure = (f: Figure) => (f.what === "count" || f.of === "" ? f.what : `${f.what} ${named(f.of)}`);

export type By = { name: string; period: string; of: string };

/** readBy gives what rows are grouped by; undefined where it is more than columns and periods. */
export function readBy(by: unknown, columns: Column[]): By[] | undefined {
  const list: unknown[] = Array.isArray(by) ? by : by === undefined || by === "" ? [] : [by];
  const out: By[] = [];
  for (const x of list) {
    const [name, written] = typeof x === "string" ? [x, x] : (Object.entries(fields(x))[0] ?? ["", ""]);
    const m = /^(?:(day|week|month|quarter|year) of )?(.+)$/.exec(text(written));
    const of = (m?.[2] ?? "").replace(/^\[(.*)\]$/, "$1");
    if (!columns.some((c) => c.name === of)) return undefined;
    out.push({ name, period: m?.[1] ?? "", of });
  }
  return out;
}

export const writeBy = (all: By[]): unknown[] =>
  all.map((b) => {
    if (b.period === "") return b.of;
    const title = b.name !== b.of && b.name !== "" ? b.name : b.period.replace(/^./, (c) => c.toUpperCase());
    return { [title]: `${b.period} of ${named(b.of)}` };
  });

export function tallyLacks(body: Body): string[] {
  const out: string[] = [];
  if (text(body.name).trim() === "") out.push(t`a name`);
  if (texts(body.of).length === 0) out.push(t`the tabs whose rows are counted`);
  if (Object.keys(fields(body.figures)).length === 0) out.push(t`a figure`);
  return out;
}

/** A chart to begin with: how many rows each option of a choice has. */
export function newTally(tracker: Tracker): Body {
  const tab = tracker.tabs[0];
  const by = tab?.columns.find((c) => c.type === "choice") ?? tab?.columns[0];
  return { name: "", of: tab?.name ?? "", by: by ? [by.name] : [], figures: { Rows: "count" }, draw: "bar" };
}
