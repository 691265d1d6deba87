import { describe, expect, it } from "vitest";
import type { Reading } from "../api/client";
import { box, columnName, corrections, holds, tableKey } from "./corrections";

const table = { range: "A1:B3", header_rows: 1, rows: 2, columns: [], left_out: [], doubts: [] };
const reading: Reading = {
  file: "f.xlsx",
  sheets: [
    { name: "A", rows: 3, columns: 2, cells: [], tables: [table], left_out: [] },
    { name: "B", rows: 3, columns: 2, cells: [], tables: [table, table], left_out: [] },
  ],
};

describe("corrections", () => {
  it("are absent where nothing is said", () => {
    expect(corrections(reading, {})).toBeUndefined();
  });
  it("name sheet, table and column as the service counts them", () => {
    const said = {
      [tableKey(1, 1)]: { range: "B2:C9", columns: { 2: { type: "text" } } },
      [tableKey(0, 0)]: { leave_out: true },
    };
    expect(JSON.parse(corrections(reading, said) ?? "")).toEqual([
      { sheet: "A", table: 1, leave_out: true, columns: [] },
      { sheet: "B", table: 2, range: "B2:C9", columns: [{ column: 2, type: "text" }] },
    ]);
  });
});

describe("ranges", () => {
  it("are read in A1 form", () => {
    expect(box("b3:AA20")).toEqual({ top: 2, left: 1, bottom: 19, right: 26 });
    expect(box("C4")).toEqual({ top: 3, left: 2, bottom: 3, right: 2 });
    expect(box("4C")).toBeUndefined();
    expect(holds(box("B2:C3"), 1, 2)).toBe(true);
    expect(holds(box("B2:C3"), 3, 2)).toBe(false);
    expect(holds(undefined, 0, 0)).toBe(false);
  });
  it("have columns with letters", () => {
    expect([0, 25, 26, 701, 702].map(columnName)).toEqual(["A", "Z", "AA", "ZZ", "AAA"]);
  });
});
