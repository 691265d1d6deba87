// Where a pasted block goes: into cells, and beyond the last row into new ones. What has no place
// is named. Pure.
import type { Column } from "../api/client";
import { isFixed } from "../parts/may";
import type { Place } from "./selection";

export type Paste = {
  cells: { row: number; column: Column; value: string }[];
  added: Record<string, string>[]; // new rows, by column name
  beyond: number; // columns of the block to the right of the last one
  fixed: string[]; // columns in which nothing can be written
};

/** planPaste lays a block over a tab with so many rows, from a place on. */
export function planPaste(block: string[][], at: Place, rows: number, columns: Column[]): Paste {
  const plan: Paste = { cells: [], added: [], beyond: 0, fixed: [] };
  const fixed = new Set<string>();
  block.forEach((line, r) => {
    const row = at.row + r;
    const fresh: Record<string, string> = {};
    line.forEach((value, c) => {
      const column = columns[at.col + c];
      if (!column) plan.beyond = Math.max(plan.beyond, at.col + c + 1 - columns.length);
      else if (isFixed(column)) fixed.add(column.name);
      else if (row < rows) plan.cells.push({ row, column, value });
      else if (value !== "") fresh[column.name] = value;
    });
    if (row >= rows && Object.keys(fresh).length > 0) plan.added.push(fresh);
  });
  plan.fixed = [...fixed];
  return plan;
}

/** isPlain says that all of it goes into cells, so that there is nothing to ask. */
export const isPlain = (p: Paste) => p.added.length === 0 && p.beyond === 0 && p.fixed.length === 0;
