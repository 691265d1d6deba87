// Columns and rows that tests show and change.
import type { Column, Row, Tab } from "../api/client";

/** column is one of text, unless a type or more is said. */
export const column = (
  name: string,
  of: Column["type"] | Partial<Column> = {},
  more: Partial<Column> = {},
): Column => ({
  id: name,
  name,
  bad_input: "mark",
  type: "text",
  ...(typeof of === "string" ? { type: of } : of),
  ...more,
});

/** tab is one that shows these columns and is named by its first. */
export const tab = (name: string, columns: Column[], more: Partial<Tab> = {}): Tab => ({
  id: `b-${name}`,
  name,
  label: columns[0]?.name ?? "",
  columns,
  rows: 0,
  overdue: 0,
  ...more,
});

/** row is one of a tab, with the first of its cells as its label. */
export const row = (id: string, cells: Record<string, unknown>, more: Partial<Row> = {}): Row => ({
  id,
  tab_id: "b-Agreed",
  tab: "Agreed",
  label: String(Object.values(cells)[0] ?? id),
  pos: 1,
  version: 1,
  cells,
  ...more,
});
