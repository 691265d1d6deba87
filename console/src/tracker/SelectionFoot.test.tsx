import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import type { Column, Row } from "../api/client";
import { Writing } from "../parts/writing";
import { RowStore } from "./rowStore";
import { SelectionFoot } from "./SelectionFoot";

afterEach(cleanup);

const columns: Column[] = [
  { id: "c1", name: "Object", type: "text", bad_input: "mark" },
  { id: "c2", name: "Value", type: "number", format: "EUR", bad_input: "mark" },
];
const row = (id: string, value: unknown, version = 1): Row => ({
  id,
  tab_id: "b1",
  tab: "Agreed",
  label: id,
  pos: 1,
  version,
  cells: { Object: "12", Value: value },
});

it("adds up what is selected, and follows it", async () => {
  const store = new RowStore();
  store.load("b1", [row("r1", "1000.50"), row("r2", "2000"), row("r3", null)]);
  const chosen = { rows: ["r1", "r2", "r3"], columns: ["Object", "Value"] };
  render(
    <Writing value={{ numbers: "1.234,5" }}>
      <SelectionFoot store={store} chosen={chosen} columns={columns} />
    </Writing>,
  );
  const said = () => [...screen.getByRole("status").children].map((e) => e.textContent);
  expect(said()).toEqual([
    "6 cells",
    "3 rows",
    "5 filled in",
    "sum 3.000,50 EUR",
    "average 1.500,25 EUR",
    "smallest 1.000,50 EUR",
    "largest 2.000,00 EUR",
  ]);
  await act(async () => store.put(row("r3", "10", 2)));
  expect(said()).toContain("sum 3.010,50 EUR");
});
