// What is done to all cells of a range at once: cleared, filled, copied, cut and pasted.
import type { Column } from "../api/client";
import { isFixed } from "../parts/may";
import { tile } from "./block";
import { readClipboard, writeClipboard } from "./clipboard";
import { typed } from "./format";
import { isPlain, planPaste, type Paste } from "./paste";
import { bounds, type Place, type Selection } from "./selection";
import type { CellEdit } from "./useEdits";

type Given = {
  selection: Selection;
  cellAt: (place: Place) => CellEdit | undefined;
  onSet: (edit: CellEdit) => void;
  onSetMany: (edits: CellEdit[]) => void;
  rows: number; // of the list
  columns: Column[];
  written: (cell: CellEdit) => string; // a cell as one types it
  onPaste: (plan: Paste, cells: CellEdit[]) => void; // what is to be asked before
  busy: boolean; // somebody types in a cell: the keys are theirs
};

export function useBlocks({ selection, cellAt, onSet, onSetMany, rows, columns, written, onPaste, busy }: Given) {
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
      for (let col = from.col; col <= to.col; col++) {
        const cell = cellAt({ row, col });
        line.push(cell ? written(cell) : "");
      }
      block.push(line);
    }
    return block;
  };
  const onCopy = (e: React.ClipboardEvent) => {
    if (busy) return;
    e.preventDefault();
    writeClipboard(e.clipboardData, copied());
  };
  const onCut = (e: React.ClipboardEvent) => {
    if (busy) return;
    onCopy(e);
    clear();
  };

  // A block goes in from the first cell of the range, again and again as often as it fits
  // into a larger range.
  const paste = (e: React.ClipboardEvent) => {
    if (busy) return;
    e.preventDefault();
    const block = tile(readClipboard(e.clipboardData), to.row - from.row + 1, to.col - from.col + 1);
    const plan = planPaste(block, from, rows, columns);
    const cells = plan.cells.flatMap(({ row, column, value }) => {
      const cell = cellAt({ row, col: columns.indexOf(column) });
      return cell ? [{ ...cell, value }] : [];
    });
    if (!isPlain(plan)) onPaste(plan, cells);
    else if (cells.length > 0) onSetMany(cells);
  };

  return { clear, fill, onCopy, onCut, paste };
}
