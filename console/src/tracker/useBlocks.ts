// What is done to all cells of a range at once: cleared, filled, copied, cut and pasted.
import { isFixed } from "../parts/may";
import { readBlock, tile, writeBlock } from "./block";
import { typed } from "./format";
import { bounds, type Place, type Selection } from "./selection";
import type { CellEdit } from "./useEdits";

type Given = {
  selection: Selection;
  cellAt: (place: Place) => CellEdit | undefined;
  onSet: (edit: CellEdit) => void;
  onSetMany: (edits: CellEdit[]) => void;
  busy: boolean; // somebody types in a cell: the keys are theirs
};

export function useBlocks({ selection, cellAt, onSet, onSetMany, busy }: Given) {
  const { from, to } = bounds(selection);

  // each gives the edits that put something into each cell of the range which can be changed
  const each = (value: (place: Place, cell: CellEdit) => unknown): CellEdit[] => {
    const edits: CellEdit[] = [];
    for (let row = from.row; row <= to.row; row++) {
      for (let col = from.col; col <= to.col; col++) {
        const cell = cellAt({ row, col });
        if (!cell || isFixed(cell.column)) continue;
        const next = value({ row, col }, cell);
        if (next !== undefined && next !== cell.value) edits.push({ ...cell, value: next });
      }
    }
    return edits;
  };
  const send = (edits: CellEdit[]) => {
    const one = edits[0];
    if (edits.length === 1 && one) onSet(one);
    else if (edits.length > 1) onSetMany(edits);
  };

  const clear = () => send(each(() => null));

  // fill puts what stands first in each column of the range into the cells below it, or
  // what stands first in each row into the cells beside it.
  const fill = (across: boolean) =>
    send(
      each((at, cell) => {
        const first = across ? { row: at.row, col: from.col } : { row: from.row, col: at.col };
        const source = cellAt(first);
        if (!source || source.column.id + source.row.id === cell.column.id + cell.row.id) return undefined;
        return source.column.type === cell.column.type ? (source.value ?? null) : typed(source.value);
      }),
    );

  const copied = () => {
    const block: string[][] = [];
    for (let row = from.row; row <= to.row; row++) {
      const line: string[] = [];
      for (let col = from.col; col <= to.col; col++) line.push(typed(cellAt({ row, col })?.value));
      block.push(line);
    }
    return writeBlock(block);
  };
  const onCopy = (e: React.ClipboardEvent) => {
    if (busy) return;
    e.preventDefault();
    e.clipboardData.setData("text/plain", copied());
  };
  const onCut = (e: React.ClipboardEvent) => {
    if (busy) return;
    onCopy(e);
    clear();
  };

  // A block goes in from the first cell of the range, again and again as often as it fits
  // into a larger range.
  const onPaste = (e: React.ClipboardEvent) => {
    if (busy) return;
    e.preventDefault();
    const block = tile(readBlock(e.clipboardData.getData("text/plain")), to.row - from.row + 1, to.col - from.col + 1);
    const edits = block.flatMap((line, r) =>
      line.flatMap((value, c) => {
        const cell = cellAt({ row: from.row + r, col: from.col + c });
        return cell && !isFixed(cell.column) ? [{ ...cell, value }] : [];
      }),
    );
    if (edits.length > 0) onSetMany(edits);
  };

  return { clear, fill, onCopy, onCut, onPaste };
}
