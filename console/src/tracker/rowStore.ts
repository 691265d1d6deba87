// The rows of a tracker, outside React: one subscription a row, so that an
// edit draws one row again and not the page. Rows stand in the order of their
// tab; an older version of a row never replaces a newer one.
import type { LiveEvent, Row } from "../api/client";

type Notify = () => void;

export class RowStore {
  private rows = new Map<string, Row>();
  private order = new Map<string, string[]>();
  private waiting = new Map<string, string>(); // what was typed and is not confirmed yet, by row and column
  private ofRow = new Map<string, Set<Notify>>();
  private ofOrder = new Set<Notify>();
  private ofAny = new Set<Notify>();
  private changes = 0;
  private telling = false;

  row = (id: string): Row | undefined => this.rows.get(id);

  // ids gives the rows of a tab in order; undefined before the tab is loaded.
  ids = (tab: string): string[] | undefined => this.order.get(tab);

  pending = (id: string, column: string): string | undefined => this.waiting.get(id + "\n" + column);

  setPending(id: string, column: string, text: string | undefined) {
    const key = id + "\n" + column;
    if (text === undefined) this.waiting.delete(key);
    else this.waiting.set(key, text);
    const row = this.rows.get(id);
    if (row) this.rows.set(id, { ...row }); // a new object, so that the row is drawn again
    this.tellRow(id);
  }

  // load takes the rows of a tab as fetched.
  load(tab: string, rows: Row[]) {
    this.order.set(tab, []);
    const ids: string[] = [];
    for (const row of rows) {
      const known = this.rows.get(row.id);
      if (known && known.version > row.version) {
        if (known.tab_id !== tab) continue; // moved on while the rows were on their way
        ids.push(row.id);
        continue;
      }
      this.rows.set(row.id, row);
      ids.push(row.id);
    }
    ids.sort((a, b) => this.pos(a) - this.pos(b));
    this.order.set(tab, ids);
    for (const id of ids) this.tellRow(id);
    this.tellOrder();
  }

  put(row: Row) {
    const known = this.rows.get(row.id);
    if (known && known.version > row.version) return;
    this.rows.set(row.id, row);
    if (known && (known.tab_id !== row.tab_id || known.pos !== row.pos)) this.takeOut(known);
    this.putIn(row);
    this.tellRow(row.id);
  }

  drop(id: string) {
    const known = this.rows.get(id);
    if (!known) return;
    this.rows.delete(id);
    this.takeOut(known);
    this.tellRow(id);
  }

  apply(event: LiveEvent) {
    for (const row of event.rows) this.put(row);
    for (const id of event.gone) this.drop(id);
  }

  subscribeRow(id: string, notify: Notify): () => void {
    const set = this.ofRow.get(id) ?? new Set();
    set.add(notify);
    this.ofRow.set(id, set);
    return () => {
      set.delete(notify);
      if (set.size === 0) this.ofRow.delete(id);
    };
  }

  subscribeOrder = (notify: Notify): (() => void) => {
    this.ofOrder.add(notify);
    return () => this.ofOrder.delete(notify);
  };

  private pos(id: string): number {
    return this.rows.get(id)?.pos ?? 0;
  }

  private takeOut(row: Row) {
    const ids = this.order.get(row.tab_id);
    if (!ids?.includes(row.id)) return;
    this.order.set(
      row.tab_id,
      ids.filter((id) => id !== row.id),
    );
    this.tellOrder();
  }

  private putIn(row: Row) {
    const ids = this.order.get(row.tab_id);
    if (!ids || ids.includes(row.id)) return;
    let low = 0;
    let high = ids.length;
    while (low < high) {
      const mid = (low + high) >> 1;
      if (this.pos(ids[mid] ?? "") < row.pos) low = mid + 1;
      else high = mid;
    }
    this.order.set(row.tab_id, [...ids.slice(0, low), row.id, ...ids.slice(low)]);
    this.tellOrder();
  }

  // subscribeAny tells of changes to whatever row, once for all that come together.
  subscribeAny = (notify: Notify): (() => void) => {
    this.ofAny.add(notify);
    return () => this.ofAny.delete(notify);
  };

  // changed grows with each change.
  changed = (): number => this.changes;

  private tellRow(id: string) {
    for (const notify of this.ofRow.get(id) ?? []) notify();
    this.changes++;
    if (this.telling || this.ofAny.size === 0) return;
    this.telling = true;
    queueMicrotask(() => {
      this.telling = false;
      for (const notify of this.ofAny) notify();
    });
  }

  private tellOrder() {
    for (const notify of this.ofOrder) notify();
  }
}
