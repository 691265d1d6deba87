import { expect, it } from "vitest";
import type { Column, Row, Tab } from "../api/client";
import { keyColumn, runningTotal } from "./found";
import { column } from "../testing/samples";

const tab = (...columns: Column[]): Tab => ({ id: "b1", name: "Loans", label: "", columns, rows: 0, overdue: 0 });
const rows = (...cells: Record<string, unknown>[]) =>
  cells.map((c, i) => ({ id: `r${i}`, cells: c }) as unknown as Row);
const five = [1, 2, 3, 4, 5];

it("finds the column by which rows are known", () => {
  const of = tab(column("Hall"), column("Loan no"));
  expect(keyColumn(of, rows(...five.map((n) => ({ Hall: `H${n}`, "Loan no": `L-${n}` }))))?.name).toBe("Loan no");
  expect(keyColumn(of, rows(...five.map((n) => ({ "Loan no": n === 5 ? "l-1" : `L-${n}` }))))).toBeUndefined();
  expect(keyColumn(of, rows(...five.map((n) => ({ "Loan no": n === 5 ? "" : `L-${n}` }))))).toBeUndefined();
  expect(keyColumn(of, rows({ "Loan no": "L-1" }))).toBeUndefined();
  const known = tab(column("Id", "text", { unique: true }), column("Loan no"));
  expect(keyColumn(known, rows(...five.map((n) => ({ "Loan no": `L-${n}` }))))).toBeUndefined();
});

it("finds a running total, and none where a row does not add up", () => {
  const of = tab(column("Paid", "number"), column("So far", "number"));
  const all = five.map((n) => ({ Paid: n, "So far": (n * (n + 1)) / 2 }));
  expect(runningTotal(of, rows(...all))).toMatchObject({ total: { name: "So far" }, clause: "running sum Paid" });
  expect(runningTotal(of, rows(...all.map((c, i) => (i === 3 ? { ...c, "So far": 11 } : c))))).toBeUndefined();
  expect(runningTotal(of, rows(...five.map(() => ({ Paid: 0, "So far": 0 }))))).toBeUndefined();
});
