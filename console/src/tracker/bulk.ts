// Edits of very many cells. Those that give many rows the same go to the service in few
// requests of their own; others go through the queue of edits, in parts.
import type { CellEdit } from "./useEdits";

/** largest is the largest number of cells that are edited as one, all or none. */
export const largest = 10_000;

const mostAlike = 20; // requests for rows that get the same cells

/** Alike is a request for rows that all get the same. */
export type Alike = { rows: string[]; cells: Record<string, unknown> };

/** inRequests puts edits together in a few requests; undefined where too many rows differ. */
export function inRequests(edits: CellEdit[]): Alike[] | undefined {
  const rows = new Map<string, Record<string, unknown>>();
  for (const { row, column, value } of edits) rows.set(row.id, { ...rows.get(row.id), [column.name]: value ?? null });
  const alike = new Map<string, Alike>();
  for (const [id, cells] of rows) {
    const key = JSON.stringify(Object.entries(cells).sort(([a], [b]) => (a < b ? -1 : 1)));
    const group = alike.get(key) ?? { rows: [], cells };
    group.rows.push(id);
    alike.set(key, group);
    if (alike.size > mostAlike) return undefined;
  }
  return [...alike.values()];
}

/** inParts gives edits in parts of at most so many cells, all cells of a row in one. */
export function inParts(edits: CellEdit[]): CellEdit[][] {
  const rows = new Map<string, CellEdit[]>();
  for (const edit of edits) {
    const of = rows.get(edit.row.id);
    if (of) of.push(edit);
    else rows.set(edit.row.id, [edit]);
  }
  const parts: CellEdit[][] = [];
  for (const row of rows.values()) {
    const part = parts.at(-1);
    if (!part || part.length + row.length > largest) parts.push([...row]);
    else part.push(...row);
  }
  return parts;
}
