import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Row } from "../api/client";
import { RaceDialog } from "./RaceDialog";

afterEach(cleanup);

const column: Column = { id: "c1", name: "Lender", type: "text", bad_input: "mark" };
const row: Row = {
  id: "r1",
  tab: "Requested",
  tab_id: "b1",
  pos: 1,
  version: 1,
  label: "Bell",
  cells: { Lender: "Tarn" },
};

it("shows what was seen, what stands and what was typed, and asks whose stays", () => {
  const settle = vi.fn();
  const current = { ...row, version: 2, tab: "Agreed", tab_id: "b2", cells: { Lender: "Averin" } };
  render(<RaceDialog race={{ row, current, column, mine: "Ostrel" }} onSettle={settle} />);
  for (const text of ["Tarn", "Averin", "Ostrel"]) expect(screen.getByText(text)).toBeTruthy();
  expect(screen.getByText(/which is in Agreed now/)).toBeTruthy();
  fireEvent.click(screen.getByText("Use mine"));
  expect(settle).toHaveBeenCalledWith(true);
  fireEvent.click(screen.getByText("Keep theirs"));
  expect(settle).toHaveBeenCalledWith(false);
});
