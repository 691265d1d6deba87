// The rows of a tracker, outside React: one subscription a row, so that an
// edit draws one row again and not the page. Rows stand in the order of their
// tab; an older version of a row never replaces a newer one.
import type { LiveEvent, Row } from "../api/client";

type Notify = () => void;

/** Typed is what was typed into a cell and is on its way, or was refused and why. */
export type Typed = { text: string; why?: string };

export class RowStore {
  private rows = new Map<string, Row>();
  private order = new Map<string, string[]>();
  private members = new Map<string, Set<string>>(); // what stands in each order
  private typed = new Map<string, Typed>(); // by row and column
  private ofRow = new Map<string, Set<Notify>>();
  private ofOrder = new Set<Notify>();
  private ofEvents = new Set<Notify>();
  private ofAny = new Set<Notify>();
  private whole = new Set<string>(); // tabs of which all rows are here
  private doubted = 0;
  private events = 0;
  private asOf = new Map<string, number>(); // how many events a row has seen
  private changes = 0;
  private telling = false;

  row = (id: string): Row | undefined => this.rows.get(id);

  // ids gives the rows of a tab in order; undefined before the tab is loaded.
  ids = (tab: string): string[] | undefined => this.order.get(tab);

  // typedInto gives what stands in a cell and is not stored.
  typedInto = (id: string, column: string): Typed | undefined => this.typed.get(id + "\n" + column);

  setTyped(id: string, column: string, now: Typed | undefined) {
    const key = id + "\n" + column;
    const before = this.typed.get(key);
    if (before?.text === now?.text && before?.why === now?.why) return;
    if (now === undefined) this.typed.delete(key);
    else this.typed.set(key, now);
    const row = this.rows.get(id);
    if (row) this.rows.set(id, { ...row }); // a new object, so that the row is drawn again
    this.tellRow(id);
  }

  // load takes the rows of a tab as fetched; more of them, after those before.
  load(tab: string, rows: Row[], more = false) {
    if (!more || !this.order.has(tab)) {
      this.order.set(tab, []);
      this.members.set(tab, new Set());
    }
    const here: Row[] = [];
    const elsewhere = new Set<string>();
    for (const row of rows) {
      const known = this.rows.get(row.id);
      if (known && known.version > row.version) {
        if (known.tab_id === tab) here.push(known);
        continue; // or moved on while the rows were on their way
      }
      if (known && known.tab_id !== tab) elsewhere.add(row.id);
      this.rows.set(row.id, row);
      this.asOf.set(row.id, this.events);
      here.push(row);
    }
    this.arrange(new Map([[tab, here]]), elsewhere);
    for (const row of here) this.tellRow(row.id);
    this.tellOrder();
  }

  put(row: Row) {
    this.change([row], []);
  }

  drop(id: string) {
    this.change([], [id]);
  }

  apply(event: LiveEvent) {
    this.events++;
    this.change(event.rows, event.gone);
    for (const notify of this.ofEvents) notify();
  }

  // loaded says whether all rows of a tab are here; they are kept current from then on.
  loaded = (tab: string): boolean => this.whole.has(tab);

  // doubts counts how often rows have been in doubt.
  doubts = (): number => this.doubted;

  finish(tab: string) {
    this.whole.add(tab);
  }

  // doubt says that rows may have changed without their being told.
  doubt() {
    this.whole.clear();
    this.doubted++;
    for (const notify of this.ofEvents) notify();
  }

  // behind gives those rows that were last fetched before the last event.
  behind(ids: string[]): string[] {
    return ids.filter((id) => this.rows.has(id) && (this.asOf.get(id) ?? 0) < this.events);
  }

  // at gives how many events there have been, to say of rows that are asked for now.
  at = (): number => this.events;

  // refresh takes rows as they were after so many events.
  refresh(rows: Row[], at: number) {
    this.change(rows, []);
    for (const row of rows) this.asOf.set(row.id, at);
  }

  subscribeEvents = (notify: Notify): (() => void) => {
    this.ofEvents.add(notify);
    return () => this.ofEvents.delete(notify);
  };

  // change puts rows where they stand now and takes others out, in one go over each tab.
  private change(rows: Row[], gone: string[]) {
    const into = new Map<string, Row[]>();
    const out = new Set<string>();
    const told: string[] = [];
    for (const row of rows) {
      const known = this.rows.get(row.id);
      if (known && known.version > row.version) continue;
      this.rows.set(row.id, row);
      this.asOf.set(row.id, this.events);
      told.push(row.id);
      const stays = known?.tab_id === row.tab_id && known.pos === row.pos && this.members.get(row.tab_id)?.has(row.id);
      if (stays) continue;
      if (known) out.add(row.id);
      const coming = into.get(row.tab_id);
      if (coming) coming.push(row);
      else into.set(row.tab_id, [row]);
    }
    for (const id of gone) {
      if (!this.rows.delete(id)) continue;
      this.asOf.delete(id);
      out.add(id);
      told.push(id);
    }
    const moved = this.arrange(into, out);
    for (const id of told) this.tellRow(id);
    if (moved) this.tellOrder();
  }

  // arrange takes rows out of whatever tabs they stand in and puts rows into tabs, by their places.
  private arrange(into: Map<string, Row[]>, out: Set<string>): boolean {
    let moved = false;
    for (const [tab, ids] of this.order) {
      const members = this.members.get(tab) ?? new Set();
      const leaving = out.size > 0 && [...out].some((id) => members.has(id));
      const staying = leaving ? ids.filter((id) => !out.has(id)) : ids;
      if (leaving) for (const id of out) members.delete(id);
      const coming = (into.get(tab) ?? []).filter((row) => !members.has(row.id));
      if (!leaving && coming.length === 0) continue;
      for (const row of coming) members.add(row.id);
      coming.sort((a, b) => a.pos - b.pos);
      this.order.set(tab, this.merged(staying, coming));
      moved = true;
    }
    return moved;
  }

  private merged(ids: string[], coming: Row[]): string[] {
    const last = ids.at(-1);
    const first = coming[0];
    if (!first) return ids;
    if (last === undefined || this.pos(last) <= first.pos) return [...ids, ...coming.map((row) => row.id)];
    const out: string[] = [];
    let next = 0;
    for (const id of ids) {
      const pos = this.pos(id);
      for (let row = coming[next]; row && row.pos <= pos; row = coming[++next]) out.push(row.id);
      out.push(id);
    }
    for (const row of coming.slice(next)) out.push(row.id);
    return out;
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
