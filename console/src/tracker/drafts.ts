// Drafts are edits that the service refused or never got. They are kept with the
// browser's tab until they are saved or discarded.

export type DraftCell = { row: string; column: string; text: string };
export type Draft = { id: string; title: string; why: string; cells: DraftCell[] };

type Place = Pick<Storage, "getItem" | "setItem" | "removeItem">;
type Notify = () => void;

export class Drafts {
  private all: Draft[];
  private listeners = new Set<Notify>();
  private next = 0;

  constructor(
    private key: string,
    private place: Place = sessionStorage,
  ) {
    this.all = read(place.getItem(key));
  }

  list = (): Draft[] => this.all;

  subscribe = (notify: Notify): (() => void) => {
    this.listeners.add(notify);
    return () => this.listeners.delete(notify);
  };

  // add keeps a draft; one of the very same cells takes the place of an earlier one.
  add(draft: Omit<Draft, "id">) {
    const cells = keyOf(draft.cells);
    const others = this.all.filter((d) => keyOf(d.cells) !== cells);
    this.put([...others, { ...draft, id: `${Date.now()}-${this.next++}` }]);
  }

  change(id: string, text: string) {
    this.put(this.all.map((d) => (d.id === id ? { ...d, cells: d.cells.map((c) => ({ ...c, text })) } : d)));
  }

  drop(id: string) {
    this.put(this.all.filter((d) => d.id !== id));
  }

  private put(all: Draft[]) {
    this.all = all;
    if (all.length === 0) this.place.removeItem(this.key);
    else this.place.setItem(this.key, JSON.stringify(all));
    for (const notify of this.listeners) notify();
  }
}

function keyOf(cells: DraftCell[]): string {
  return JSON.stringify(cells.map((c) => [c.row, c.column]));
}

function read(text: string | null): Draft[] {
  if (text === null) return [];
  try {
    const all: unknown = JSON.parse(text);
    return Array.isArray(all) ? (all as Draft[]).filter((d) => Array.isArray(d.cells)) : [];
  } catch {
    return [];
  }
}
