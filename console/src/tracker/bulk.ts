// Edits of very many cells: they go to the service in few requests of their own, and not
// through the queue of single edits, which is kept in the browser.
import type { components } from "../api/schema";
import type { CellEdit } from "./useEdits";

/** manyCells is from how many cells on edits are sent so. */
export const manyCells = 2_000;

export const perRequest = 10_000; // rows whose cells differ
const mostAlike = 20; // requests for rows that get the same cells

type Alike = { rows: string[]; cells: Record<string, unknown> };
type Different = { edits: components["schemas"]["RowEdit"][] };

/** Request is either for rows that all get the same, or for rows that each get their own. */
export type Request = Alike | Different;

/** inRequests puts edits together in as few requests as can be. */
export function inRequests(edits: CellEdit[]): Request[] {
  const rows = new Map<string, { version: number; cells: Record<string, unknown> }>();
  for (const { row, column, value } of edits) {
    const at = rows.get(row.id) ?? { version: row.version, cells: {} };
    at.cells[column.name] = value ?? null;
    rows.set(row.id, at);
  }
  const alike = new Map<string, Alike>();
  for (const [id, { cells }] of rows) {
    const key = JSON.stringify(Object.entries(cells).sort(([a], [b]) => (a < b ? -1 : 1)));
    const group = alike.get(key) ?? { rows: [], cells };
    group.rows.push(id);
    alike.set(key, group);
    if (alike.size > mostAlike) return chunks(rows);
  }
  return [...alike.values()];
}

function chunks(rows: Map<string, { version: number; cells: Record<string, unknown> }>): Different[] {
  const all = [...rows].map(([row, { cells, version }]) => ({ row, version, cells }));
  const out: Different[] = [];
  for (let from = 0; from < all.length; from += perRequest) out.push({ edits: all.slice(from, from + perRequest) });
  return out;
}
