// Edits of cells on their way to the service, outside React. They are sent one after the other
// in the order in which they were made, each under a key of its own, so that it is done once.
// What the service refuses stays until its writer saves or discards it. All of it is kept with
// the browser, over reloads and closed pages.
import type { ChangeSet, Problem, Row } from "../api/client";
import { problemOf } from "../api/client";
import { newKey } from "../api/patient";
import { typed } from "./format";
import type { RowStore } from "./rowStore";

export type EditedCell = {
  row: string;
  label: string; // of the row
  column: string;
  value: unknown;
  before: unknown; // what stood there when it was written
  version: number; // of the row then; 0 overwrites whatever is there
};

export type Edit = {
  key: string;
  cells: EditedCell[];
  tried?: boolean; // it may have reached the service
  keepOdd?: boolean;
  refused?: Refusal;
};

export type Refusal = {
  why: string;
  odd?: Problem["odd"]; // good values that would give way to what does not fit
  theirs?: { row: string; label: string; column: string; value: unknown }[]; // written by others since
};

/** Body is what is sent: the cells of each row. */
export type Body = { row: string; version: number; cells: Record<string, unknown>; keep_odd?: boolean }[];

type Send = (edits: Body, key: string) => Promise<ChangeSet>;
type Place = Pick<Storage, "getItem" | "setItem" | "removeItem">;
type Notify = () => void;

// typingKey is where what is being typed stands, beside the edits under a key.
export const typingKey = (key: string) => `${key} typing`;

const firstWait = 500; // milliseconds
const longestWait = 3_000;

// isAway says that an edit was not judged: nobody answered, or nobody is signed in, or the
// service is too busy. It is sent again.
const isAway = (p: Problem) => p.type === "urn:kavlo:away" || [401, 429, 502, 503, 504].includes(p.status);

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

export class EditQueue {
  private all: Edit[];
  private judged: Edit[] = [];
  private listeners = new Set<Notify>();
  private onSaved = new Set<(set: ChangeSet) => void>();
  private mine = new Map<string, unknown>(); // what I saved last in a cell
  private working = false;
  private gone = false; // the service does not answer
  private over = false;
  private wake?: Notify;
  private marked = new Set<string>(); // cells in which something stands

  constructor(
    private store: RowStore,
    private send: Send,
    private key: string,
    private place: Place = localStorage,
  ) {
    this.all = readEdits(place.getItem(key));
    // what stood in an editor when the page ended without a word, as in a crash
    const typed = readEdits(place.getItem(typingKey(key))).filter((e) => e.cells.some((c) => !same(c.value, c.before)));
    if (typed.length > 0) this.put([...this.all, ...typed]);
    this.typing(undefined);
    this.judge();
    this.mark();
    void this.work();
  }

  list = (): Edit[] => this.all;

  /** refused are those that the service has judged: the same list until one comes or goes. */
  refused = (): Edit[] => this.judged;

  /** waiting is how many edits wait for a service that does not answer. */
  waiting = (): number => (this.gone ? this.all.length - this.judged.length : 0);

  isAway = (): boolean => this.gone;

  subscribe = (notify: Notify): (() => void) => {
    this.listeners.add(notify);
    return () => this.listeners.delete(notify);
  };

  /** saved calls back with the answer to each edit that is stored. */
  saved(notify: (set: ChangeSet) => void): () => void {
    this.onSaved.add(notify);
    return () => this.onSaved.delete(notify);
  }

  /** attach lets the cells of a store show what stands here. */
  attach(store: RowStore) {
    if (store === this.store) return;
    this.store = store;
    this.mark();
  }

  /** add sends an edit after those before it; all of its cells are written or none. */
  add(cells: EditedCell[]) {
    const written = new Set(cells.map(at));
    // what is typed anew takes the place of what was refused in the very same cells
    const others = this.all.filter((e) => !e.refused || !e.cells.every((c) => written.has(at(c))));
    this.put([...others, { key: newKey(), cells }]);
    void this.work();
  }

  /** typing keeps what stands in an editor, until it is added or given up. */
  typing(cell: EditedCell | undefined) {
    const key = typingKey(this.key);
    try {
      if (cell) this.place.setItem(key, JSON.stringify([{ key: newKey(), cells: [cell] }]));
      else this.place.removeItem(key);
    } catch {
      // more than the browser keeps: it stands in the editor
    }
  }

  /** take brings in what another page has left behind. */
  take(edits: Edit[]) {
    const known = new Set(this.all.map((e) => e.key));
    this.put([...this.all, ...edits.filter((e) => !known.has(e.key))]);
    void this.work();
  }

  /** retry sends what was refused once more: with another text, with a yes to what does not fit, or over what others wrote. */
  retry(key: string, how: { text?: string; keepOdd?: boolean; overwrite?: boolean } = {}) {
    const edit = this.all.find((e) => e.key === key);
    if (!edit) return;
    const cells = edit.cells.map((c) => ({
      ...c,
      value: how.text ?? c.value,
      version: how.overwrite ? 0 : c.version,
    }));
    const again: Edit = { key: newKey(), cells, keepOdd: how.keepOdd };
    this.put([...this.all.filter((e) => e !== edit), again]);
    void this.work();
  }

  discard(key: string) {
    this.put(this.all.filter((e) => e.key !== key));
  }

  /** hurry tries at once: somebody knows that the service is back. */
  hurry = () => this.wake?.();

  /** settled waits until nothing is under way, or the service does not answer. */
  async settled(): Promise<void> {
    while (this.next() && !this.gone && !this.over) await new Promise<void>((done) => this.once(done));
  }

  /** stop sends nothing more; what stands here stays with the browser. */
  stop() {
    this.over = true;
    this.wake?.();
  }

  private once(done: Notify) {
    const stop = this.subscribe(() => {
      stop();
      done();
    });
  }

  private next = (): Edit | undefined => this.all.find((e) => !e.refused);

  private async work() {
    if (this.working) return;
    this.working = true;
    try {
      for (let edit = this.next(); edit && !this.over; edit = this.next()) await this.sendOne(edit);
    } finally {
      this.working = false;
    }
  }

  // sendOne sends an edit until it is judged.
  private async sendOne(edit: Edit) {
    let now = edit.tried ? edit : this.replace(edit, { ...this.upToDate(edit), tried: true });
    for (let wait = firstWait; !this.over; wait = Math.min(longestWait, wait * 2)) {
      try {
        const set = await this.send(bodyOf(now), now.key);
        this.answered();
        return this.done(now, set);
      } catch (err) {
        const problem = problemOf(err);
        if (isAway(problem)) {
          this.missed();
          await this.pause(wait);
          continue;
        }
        this.answered();
        if (problem.status !== 412 || !problem.current) return this.refuse(now, problem);
        this.store.put(problem.current);
        const row = problem.current;
        const lost = now.cells.filter((c) => c.row === row.id && this.isTheirs(c, row));
        if (lost.length > 0) return this.refuse(now, problem, row, lost);
        now = this.replace(now, { ...now, key: newKey(), cells: now.cells.map((c) => seen(c, row)) });
        wait = firstWait / 2;
      }
    }
  }

  // upToDate notes the newest version of each row, where the edited cells are still as they were seen.
  private upToDate(edit: Edit): Edit {
    const theirs = new Set<string>();
    for (const c of edit.cells) {
      const row = this.store.row(c.row);
      if (row && this.isTheirs(c, row)) theirs.add(c.row);
    }
    const cells = edit.cells.map((c) => {
      const row = this.store.row(c.row);
      return row && !theirs.has(c.row) ? seen(c, row) : c;
    });
    return { ...edit, cells };
  }

  // isTheirs says that somebody else has written another value into a cell.
  private isTheirs(cell: EditedCell, row: Row): boolean {
    if (cell.version === 0 || row.version <= cell.version) return false;
    const now = row.cells[cell.column];
    const isMine = this.mine.has(at(cell)) && same(now, this.mine.get(at(cell)));
    return !isMine && !same(now, cell.before) && !same(now, cell.value);
  }

  private done(edit: Edit, set: ChangeSet) {
    const rows = new Map(set.rows?.map((row) => [row.id, row]));
    for (const c of edit.cells) {
      const row = rows.get(c.row);
      if (row) this.mine.set(at(c), row.cells[c.column]);
    }
    for (const row of set.rows ?? []) this.store.put(row);
    this.put(this.all.filter((e) => e.key !== edit.key));
    for (const notify of this.onSaved) notify(set);
  }

  private refuse(edit: Edit, problem: Problem, current?: Row, lost: EditedCell[] = []) {
    const { detail, hint = "" } = problem;
    const refused: Refusal = { why: detail.includes(hint) ? detail : `${detail}: ${hint}` };
    if (problem.type === "urn:kavlo:would-keep-odd") refused.odd = problem.odd ?? [];
    if (current)
      refused.theirs = lost.map((c) => ({
        row: c.row,
        label: current.label,
        column: c.column,
        value: current.cells[c.column],
      }));
    this.replace(edit, { ...edit, refused });
  }

  private replace(edit: Edit, by: Edit): Edit {
    this.put(this.all.map((e) => (e.key === edit.key ? by : e)));
    return by;
  }

  private missed() {
    if (this.gone) return;
    this.gone = true;
    this.tell();
  }

  private answered() {
    if (!this.gone) return;
    this.gone = false;
    this.tell();
  }

  private pause(wait: number): Promise<void> {
    return new Promise((done) => {
      const timer = setTimeout(done, wait);
      this.wake = () => {
        clearTimeout(timer);
        done();
      };
    });
  }

  private judge() {
    const now = this.all.filter((e) => e.refused);
    if (now.length !== this.judged.length || now.some((e, i) => e !== this.judged[i])) this.judged = now;
  }

  private put(all: Edit[]) {
    this.all = all;
    this.judge();
    try {
      if (all.length === 0) this.place.removeItem(this.key);
      else this.place.setItem(this.key, JSON.stringify(all));
    } catch {
      // more than the browser keeps: it stands here until the page is closed
    }
    this.mark();
    this.tell();
  }

  // mark lets each cell show what was typed into it.
  private mark() {
    const now = new Set<string>();
    for (const e of this.all)
      for (const c of e.cells) {
        now.add(at(c));
        this.store.setTyped(c.row, c.column, { text: typed(c.value), why: e.refused?.why });
      }
    for (const cell of this.marked) {
      const [row = "", column = ""] = cell.split("\n");
      if (!now.has(cell)) this.store.setTyped(row, column, undefined);
    }
    this.marked = now;
  }

  private tell() {
    for (const notify of [...this.listeners]) notify();
  }
}

const at = (c: Pick<EditedCell, "row" | "column">) => `${c.row}\n${c.column}`;

const seen = (c: EditedCell, row: Row): EditedCell =>
  c.row === row.id && c.version > 0 ? { ...c, version: row.version } : c;

function bodyOf(edit: Edit): Body {
  const byRow = new Map<string, Body[number]>();
  for (const c of edit.cells) {
    const one = byRow.get(c.row) ?? { row: c.row, version: c.version, cells: {}, keep_odd: edit.keepOdd };
    one.cells[c.column] = c.value;
    byRow.set(c.row, one);
  }
  return [...byRow.values()];
}

/** readEdits reads what was kept; what cannot be read is none. */
export function readEdits(text: string | null): Edit[] {
  if (text === null) return [];
  try {
    const all: unknown = JSON.parse(text);
    return Array.isArray(all) ? (all as Edit[]).filter((e) => typeof e.key === "string" && Array.isArray(e.cells)) : [];
  } catch {
    return [];
  }
}
