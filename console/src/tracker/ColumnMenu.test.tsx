import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Row } from "../api/client";
import { blank, odd, plain } from "./arrangement";
import { ColumnMenu, valuesOf } from "./ColumnMenu";
import { RowStore } from "./rowStore";

afterEach(cleanup);

const stage: Column = {
  id: "c1",
  name: "Stage",
  type: "choice",
  bad_input: "mark",
  options: [{ name: "Open" }, { name: "Lent" }, { name: "Done" }],
};
const needs: Column = { id: "c2", name: "Needs", type: "choice", several: true, bad_input: "mark" };
const no: Column = { id: "c3", name: "No", type: "text", bad_input: "mark" };

function filled(): RowStore {
  const store = new RowStore();
  const row = (n: number, cells: Record<string, unknown>, more: Partial<Row> = {}): Row => ({
    id: `r${n}`,
    tab_id: "b1",
    tab: "Loans",
    label: String(n),
    pos: n,
    version: 1,
    cells,
    ...more,
  });
  store.load("b1", [
    row(1, { Stage: "Lent", Needs: ["Fragile", "Heavy"], No: "L-10" }),
    row(2, { Stage: "Open", Needs: [], No: "L-9" }),
    row(3, { Stage: "Lent", Needs: ["Heavy"], No: "L-9" }),
    row(4, { Stage: "Gone", No: null }, { odd: ["Stage"] }),
    row(5, { Stage: null, No: "L-100" }),
  ]);
  return store;
}

it("counts the values that a column has", () => {
  const counted = (c: Column) => valuesOf(filled(), "b1", c).map(({ value, count }) => [value, count]);
  expect(counted(stage)).toEqual([
    ["Open", 1],
    ["Lent", 2],
    [odd, 1],
    [blank, 1],
  ]);
  expect(counted(needs)).toEqual([
    ["Fragile", 1],
    ["Heavy", 2],
    [blank, 3],
  ]);
  expect(counted(no).map(([v]) => v)).toEqual(["L-9", "L-10", "L-100", blank]);
});

function menu(arrangement = plain) {
  const onArrange = vi.fn();
  const onClose = vi.fn();
  render(
    <ColumnMenu
      store={filled()}
      tab="b1"
      column={stage}
      columns={[no, stage, needs]}
      arrangement={arrangement}
      names={new Map()}
      width={150}
      onArrange={onArrange}
      onClose={onClose}
    />,
  );
  return { onArrange, onClose };
}

it("chooses rows by values, found by typing", () => {
  const { onArrange, onClose } = menu();
  fireEvent.change(screen.getByLabelText("Find a value"), { target: { value: "LE" } });
  expect(screen.queryByRole("checkbox", { name: /Open/ })).toBeNull();
  fireEvent.click(screen.getByRole("checkbox", { name: /Lent/ }));
  fireEvent.change(screen.getByLabelText("Find a value"), { target: { value: "bla" } });
  fireEvent.click(screen.getByRole("checkbox", { name: /blank/ }));
  fireEvent.click(screen.getByText("Apply filter"));
  expect(onArrange).toHaveBeenCalledWith({ picks: { Stage: ["Lent", blank] } });
  expect(onClose).toHaveBeenCalled();
  fireEvent.change(screen.getByLabelText("Find a value"), { target: { value: "zzz" } });
  expect(screen.getByText("No matching values.")).toBeTruthy();
});

it("sorts after other columns, takes filters off, and moves the column", () => {
  const { onArrange } = menu({ ...plain, order: [{ column: "No", down: true }], picks: { Stage: ["Open"] } });
  fireEvent.click(screen.getByText("Then sort descending"));
  expect(onArrange).toHaveBeenLastCalledWith({
    order: [
      { column: "No", down: true },
      { column: "Stage", down: true },
    ],
  });
  fireEvent.click(screen.getByText("Remove filter"));
  expect(onArrange).toHaveBeenLastCalledWith({ picks: {} });
  fireEvent.click(screen.getByText("Move left"));
  expect(onArrange).toHaveBeenLastCalledWith({ columns: ["Stage", "No", "Needs"] });
  fireEvent.click(screen.getByText("Hide column"));
  expect(onArrange).toHaveBeenLastCalledWith({ columns: ["No", "Needs"] });
  fireEvent.click(screen.getByText("Freeze up to here"));
  expect(onArrange).toHaveBeenLastCalledWith({ frozen: 2 });
  fireEvent.click(screen.getByText("Wider"));
  expect(onArrange).toHaveBeenLastCalledWith({ widths: { Stage: 190 } });
});
