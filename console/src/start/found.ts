// What the rows of a tab let one suggest: a column by which they are known, a column that is
// the running total of another.
import type { Column, Row, Tab } from "../api/client";
import { named } from "../automation/condition";

const few = 5; // rows below which nothing is said

const blank = (v: unknown) => v === null || v === undefined || v === "";

/** keyColumn gives a column whose values are all there and all different; undefined: none is,
 * or one is unique already. */
export function keyColumn(tab: Tab, rows: Row[]): Column | undefined {
  if (rows.length < few || tab.columns.some((c) => c.unique || c.automatic_number)) return undefined;
  return tab.columns.find((c) => {
    if (c.clause || !["text", "number"].includes(c.type) || !keyWords.test(c.name)) return false;
    const values = rows.map((r) => r.cells[c.name]);
    return !values.some(blank) && new Set(values.map((v) => String(v).toLowerCase())).size === values.length;
  });
}

const keyWords = /\b(no|nr|number|id|code|key|ref|reference|name|object|title|address)\b/i;

/** runningTotal gives a number column that holds the running total of another. */
export function runningTotal(tab: Tab, rows: Row[]): { total: Column; of: Column; clause: string } | undefined {
  const numbers = tab.columns.filter((c) => c.type === "number" && !c.clause);
  if (rows.length < few) return undefined;
  for (const total of numbers) {
    for (const of of numbers) {
      if (of === total) continue;
      let sum = 0;
      const adds = rows.every((r) => {
        const [is, more] = [r.cells[total.name], r.cells[of.name]];
        sum += Number(more ?? 0);
        return !blank(is) && Math.abs(Number(is) - sum) < 1e-6;
      });
      if (adds && sum !== Number(rows[0]?.cells[of.name] ?? 0)) {
        return { total, of, clause: `running sum ${named(of.name)}` };
      }
    }
  }
  return undefined;
}
