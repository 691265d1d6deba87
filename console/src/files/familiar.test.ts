import { expect, it } from "vitest";
import type { Column, ReadTable, Reading, Tab } from "../api/client";
import { tracker } from "../testing/page";
import { familiar, keyOf } from "./familiar";
import { column } from "../testing/samples";

const tab = (name: string, ...columns: Column[]): Tab => ({ id: name, name, label: "", columns, rows: 0, overdue: 0 });
const table = (...names: string[]): ReadTable => ({
  range: "A1:B2",
  header_rows: 1,
  rows: 1,
  left_out: [],
  doubts: [],
  columns: names.map((name) => ({ name, type: "text", reason: "", odd: [] })),
});
const reading = (...tables: ReadTable[]) =>
  ({ sheets: [{ name: "March", tables, cells: [], rows: 0, left_out: [] }] }) as unknown as Reading;
const loans = tracker("admin", {
  tabs: [
    tab("Requested", column("Loan no", { unique: true }), column("Object"), column("Due")),
    tab("Venues", column("Name")),
  ],
});

it("finds the tab that a file looks like, and the column by which its rows are known", () => {
  const found = familiar(reading(table("Hall", "Fee"), table("loan no ", "Object", "Due", "Note")), [loans]);
  expect(found).toMatchObject({ tab: { name: "Requested" }, table: "0/1", shared: 3, key: "loan no " });
});

it("finds none where few columns are shared", () => {
  expect(familiar(reading(table("Object", "Fee", "Hall")), [loans])).toBeUndefined();
  expect(familiar(reading(table("Name")), [loans])).toBeUndefined();
  expect(keyOf(tab("A", column("B")))).toBeUndefined();
});
