import { expect, it } from "vitest";
import { column } from "../testing/samples";
import { gapBefore, layOut, leftOf } from "./layout";

const columns = ["Loan no", "Object", "Lender", "Due"].map((name) => column(name));
const widths = { "Loan no": 100, Object: 200, Lender: 150, Due: 90 };

it("lays columns side by side, and freezes up to the one that rows are called by", () => {
  const layout = layOut(columns, "Object", widths);
  expect(columns.map((_, col) => leftOf(layout, col))).toEqual([0, 100, 300, 450]);
  expect(leftOf(layout, columns.length)).toBe(540);
  expect(layout).toMatchObject({ frozen: 2, total: 540 });
  expect(layout.cells.map((c) => c.className.includes("cell-frozen"))).toEqual([true, true, false, false]);
  expect(layout.cells[1]?.style).toEqual({ width: 200, "--left": "100px" });
});

it("leaves the room of columns that are not drawn", () => {
  const layout = layOut(columns, "Object", widths, 1);
  expect(layout.frozen).toBe(1);
  expect([0, 1, 2, 3].map((first) => gapBefore(layout, first))).toEqual([0, 0, 200, 350]);
});

it("freezes no more columns than there are", () => {
  expect(layOut(columns.slice(0, 1), "Loan no", widths, 3)).toMatchObject({ frozen: 1, total: 100 });
});
