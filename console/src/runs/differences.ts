// What differs between the rows of a tab then and now.
import type { Row } from "../api/client";

export type Then = {
  row: Row; // as it was; of a row that has come since, as it is
  now?: Row;
  changed: string[]; // columns
  gone: boolean; // it is not in the tab now
  added: boolean; // it was not in the tab then
};

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/** differences compares rows by their ids, in the order of then; what has come since stands last. */
export function differences(then: Row[], now: Row[]): Then[] {
  const there = new Map(now.map((r) => [r.id, r]));
  const out = then.map((row): Then => {
    const is = there.get(row.id);
    there.delete(row.id);
    const names = is ? [...new Set([...Object.keys(row.cells), ...Object.keys(is.cells)])] : [];
    return {
      row,
      now: is,
      changed: names.filter((n) => !same(row.cells[n], is?.cells[n])),
      gone: is === undefined,
      added: false,
    };
  });
  for (const row of there.values()) out.push({ row, now: row, changed: [], gone: false, added: true });
  return out;
}
