// Finding a text in cells and putting another in its place. Pure: rows in, edits out.
import type { Column, Person, Row } from "../api/client";
import { isFixed } from "../parts/may";
import { written } from "./editors/written";
import type { CellEdit } from "./useEdits";

export type Wanted = {
  find: string;
  by: string;
  whole: boolean; // the cell holds nothing else
  exact: boolean; // capital and small letters count
};

/** replaced gives a text with what is wanted in it; undefined where it is not there. */
export function replaced(text: string, { find, by, whole, exact }: Wanted): string | undefined {
  if (find === "") return undefined;
  const literal = find.replace(/[\\^$.*+?()[\]{}|]/g, "\\$&");
  const pattern = new RegExp(whole ? `^${literal}$` : literal, exact ? "gu" : "giu");
  const next = text.replace(pattern, () => by); // a function: dollar signs are no more than that
  return next === text ? undefined : next;
}

/** canReplace says that cells of a column are written as text. */
export const canReplace = (c: Column) => !isFixed(c) && c.type !== "checkbox" && c.type !== "file";

export type Replacement = CellEdit & { before: string; value: string };

/** planReplace gives what would be written into the cells of rows. */
export function planReplace(rows: Row[], columns: Column[], wanted: Wanted, people: Person[]): Replacement[] {
  const at = columns.filter(canReplace);
  return rows.flatMap((row) =>
    at.flatMap((column) => {
      const before = written(column, row.cells[column.name], people);
      const value = before === "" ? undefined : replaced(before, wanted);
      return value === undefined ? [] : [{ row, column, before, value }];
    }),
  );
}
