import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { ReadTable } from "../api/client";
import type { TableSaid } from "./corrections";
import { TableForm } from "./TableForm";

afterEach(cleanup);

const table: ReadTable = {
  range: "B3:C9",
  header_rows: 1,
  rows: 6,
  left_out: [],
  doubts: ["in Due, day and month could be either way round"],
  columns: [
    { name: "Object", type: "text", reason: "6 of 6 filled cells are texts", odd: [] },
    { name: "Due", type: "date", reason: "5 of 6 filled cells are dates", odd: [{ cell: "C5", text: "TBC" }] },
  ],
};

function show(said: TableSaid = {}) {
  const onSay = vi.fn();
  render(<TableForm table={table} name="Board" said={said} tabs={[]} onSay={onSay} />);
  return onSay;
}

it("tells what was found, why, and what it is unsure of", () => {
  show();
  for (const text of ["B3:C9: 6 rows", "Object", "Due", table.doubts[0] ?? "", "Board"])
    expect(screen.getByText(text)).toBeTruthy();
  expect(screen.getByText(/1 odd cell/)).toBeTruthy();
});

it("takes a range only once it is one, and forgets what was said of other columns", () => {
  const onSay = show({ columns: { 1: { type: "number" } } });
  const field = screen.getByLabelText("Range");
  fireEvent.change(field, { target: { value: "3B" } });
  fireEvent.blur(field);
  expect(onSay).not.toHaveBeenCalled();
  fireEvent.change(field, { target: { value: "b3:c5" } });
  fireEvent.blur(field);
  expect(onSay).toHaveBeenCalledWith({ range: "B3:C5", columns: {} });
});

it("leaves out a column or the whole table, and takes them again", () => {
  const onSay = show({ columns: { 2: { leave_out: true } } });
  fireEvent.click(screen.getByLabelText("Import Object"));
  expect(onSay).toHaveBeenLastCalledWith({ columns: { 1: { leave_out: true }, 2: { leave_out: true } } });
  fireEvent.click(screen.getByLabelText("Import Due"));
  expect(onSay).toHaveBeenLastCalledWith({ columns: { 2: { leave_out: undefined } } });
  fireEvent.click(screen.getByLabelText("Import this table"));
  expect(onSay).toHaveBeenLastCalledWith({ columns: { 2: { leave_out: true } }, leave_out: true });
});

it("offers to compute a column of formulas, and says why it cannot", () => {
  const [object, due] = table.columns;
  if (!object || !due) throw new Error("the table has two columns");
  const onSay = vi.fn();
  const columns = [
    { ...object, clause: "Fee * Days" },
    { ...due, no_clause: "the rows say different things" },
  ];
  render(<TableForm table={{ ...table, columns }} name="Board" said={{}} tabs={[]} onSay={onSay} />);
  fireEvent.click(screen.getByLabelText(/Compute it here: Fee \* Days/));
  expect(onSay).toHaveBeenLastCalledWith({ columns: { 1: { computed: true } } });
  expect(screen.getByText(/results of formulas: the rows say different things/)).toBeTruthy();
});
