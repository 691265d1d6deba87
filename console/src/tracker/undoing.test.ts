import { expect, it } from "vitest";
import { original, redoable, undoable, type Mine } from "./undoing";

// The journal as the service tells it: entries of one person, some of which take others back.
function journal(...acts: (number | undefined)[]): Mine[] {
  const all: Mine[] = acts.map((undoes, i) => ({ seq: i + 1, says: `change ${i + 1}`, at: "", undoes }));
  const undone = (seq: number): number | undefined => {
    const by = all.filter((e) => e.undoes === seq).at(-1);
    return by && undone(by.seq) === undefined ? by.seq : undefined;
  };
  return all.map((e) => ({ ...e, undone: undone(e.seq) })).reverse();
}

const seqs = (entries: Mine[]) => entries.map((e) => e.seq);

it("undoes and redoes in turn, as often as one likes", () => {
  expect(seqs(undoable(journal(undefined, undefined)))).toEqual([2, 1]);
  const both = journal(undefined, undefined, 2, 1); // both undone
  expect(seqs(undoable(both))).toEqual([]);
  expect(seqs(redoable(both))).toEqual([4, 3]);
  const again = journal(undefined, undefined, 2, 1, 4); // the first done again
  expect(seqs(undoable(again))).toEqual([5]);
  expect(seqs(redoable(again))).toEqual([3]);
  expect(original(again[0] as Mine, again).seq).toBe(1);
  const anew = journal(undefined, undefined, 2, 1, 4, 5); // and undone once more
  expect(seqs(redoable(anew))).toEqual([6, 3]);
});

it("does nothing again over a newer change", () => {
  const since = journal(undefined, 1, undefined);
  expect(seqs(redoable(since))).toEqual([]);
  expect(seqs(undoable(since))).toEqual([3]);
});
