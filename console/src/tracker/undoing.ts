// Which of one's own changes can be undone next, and which undone one can be done again.
import type { JournalEntry } from "../api/client";

export type Mine = Pick<JournalEntry, "seq" | "says" | "undoes" | "undone" | "at">;

/** isUndo says that an entry takes a change back, and does not do it again. */
function isUndo(entry: Mine, bySeq: Map<number, Mine>): boolean {
  if (!entry.undoes) return false;
  const of = bySeq.get(entry.undoes);
  return of === undefined || !isUndo(of, bySeq);
}

// standing leaves out what was taken back, and what was undone and done again since: the last
// of these acts for it.
function standing(mine: Mine[]): Mine[] {
  const actedOn = new Set(mine.map((e) => e.undoes));
  return mine.filter((e) => !e.undone && !actedOn.has(e.seq));
}

/** undoable gives what can be undone, the newest first. */
export function undoable(mine: Mine[]): Mine[] {
  const bySeq = new Map(mine.map((e) => [e.seq, e]));
  return standing(mine).filter((e) => !isUndo(e, bySeq));
}

/** redoable gives what was undone since the newest change, the last undone first. */
export function redoable(mine: Mine[]): Mine[] {
  const bySeq = new Map(mine.map((e) => [e.seq, e]));
  const last = mine.find((e) => !e.undoes)?.seq ?? 0;
  return standing(mine).filter((e) => isUndo(e, bySeq) && e.seq > last);
}

/** original gives the change that an entry does, undoes or does again. */
export function original(entry: Mine, mine: Mine[]): Mine {
  const of = entry.undoes ? mine.find((e) => e.seq === entry.undoes) : undefined;
  return of ? original(of, mine) : entry;
}
