// The grid: virtual rows, one active cell, ranges, editing and the clipboard,
// all of it by keyboard.
import { t } from "@lingui/core/macro";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Column, Person, Row } from "../api/client";
import { isFixed } from "../parts/may";
import { CellEditor } from "./CellEditor";
import { isNumeric, typed, widthOf } from "./format";
import { GridRow, leftOf, type Layout } from "./GridRow";
import { readBlock, writeBlock } from "./block";
import type { RowStore } from "./rowStore";
import { at, bounds, start, step, type Place, type Selection } from "./selection";
import type { CellEdit } from "./useEdits";
import "./grid.css";

const rowHeight = 28;

// Chosen are the cells of the range that is drawn: each column of each row.
export type Chosen = { rows: string[]; columns: string[] };

type Props = {
  store: RowStore;
  ids: string[];
  columns: Column[];
  label: string;
  people: Person[];
  go?: string; // the row to go to
  name: string;
  onActive: (row: Row | undefined, column: Column | undefined, chosen: Chosen) => void;
  onSet: (edit: CellEdit) => void;
  onSetMany: (edits: CellEdit[]) => void;
  onLost: (edit: CellEdit) => void; // typed into a row that is not here any more
  onTakeBack: () => void;
  onWhy: () => void;
};

export function Grid(p: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const [held, setHeld] = useState<{ selection: Selection; id?: string }>({ selection: start });
  // What was there when typing began goes with the text, so that a change by
  // somebody else meanwhile is noticed.
  const [editing, setEditing] = useState<{ text: string; cell: CellEdit }>();
  const typing = useRef(""); // the editor's text, as it is now
  const moved = useRef(false); // by hand, so that focus follows
  const layout = useMemo(() => layOut(p.columns, p.label), [p.columns, p.label]);
  const names = useMemo(() => new Map(p.people.map((x) => [x.address, x.name])), [p.people]);
  const selection = useMemo(
    () => follow(held.selection, held.id, p.ids, p.columns.length),
    [held, p.ids, p.columns.length],
  );
  const active = selection.active;
  // eslint-disable-next-line react-hooks/incompatible-library -- the compiler is not used here
  const rows = useVirtualizer({
    count: p.ids.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    scrollPaddingStart: rowHeight + 4,
    scrollPaddingEnd: 20,
  });
  const { onActive, store, ids, columns, go } = p;

  // keep saves what stands in the editor and closes it. The text goes to the row
  // in which it was typed, wherever that is now.
  const keep = () => {
    const cell = editing?.cell;
    setEditing(undefined);
    if (cell && typing.current !== typed(cell.value)) p.onSet({ ...cell, value: typing.current });
  };

  const select = (s: Selection) => {
    moved.current = true;
    if (editing !== undefined) keep();
    setHeld({ selection: s, id: ids[s.active.row] });
    rows.scrollToIndex(s.active.row);
    scrollToColumn(scroller.current, layout, s.active.col);
  };

  const activeId = ids[active.row];
  useEffect(() => {
    const { from, to } = bounds(selection);
    onActive(activeId === undefined ? undefined : store.row(activeId), columns[active.col], {
      rows: ids.slice(from.row, to.row + 1),
      columns: columns.slice(from.col, to.col + 1).map((c) => c.name),
    });
  }, [activeId, active.col, columns, ids, onActive, selection, store]);

  useEffect(() => {
    const index = go ? ids.indexOf(go) : -1;
    if (index < 0) return;
    moved.current = true;
    setHeld((h) => ({ selection: at({ row: index, col: h.selection.active.col }), id: go }));
    rows.scrollToIndex(index, { align: "center" });
    // only when another row is asked for, not whenever rows come and go
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [go, ids.length > 0]);

  useLayoutEffect(() => {
    if (!moved.current || editing !== undefined) return;
    const cell = scroller.current?.querySelector<HTMLElement>(`[data-row="${active.row}"][data-col="${active.col}"]`);
    if (cell) {
      const held = document.activeElement; // who types elsewhere meanwhile is left to it
      const elsewhere = held?.matches("input, textarea, select") && !scroller.current?.contains(held);
      if (!elsewhere) cell.focus({ preventScroll: true });
      moved.current = false;
    }
  });

  const cellAt = (place: Place): CellEdit | undefined => {
    const row = store.row(ids[place.row] ?? "");
    const column = columns[place.col];
    return row && column ? { row, column, value: row.cells[column.name] } : undefined;
  };

  const edit = (text?: string) => {
    const cell = cellAt(active);
    if (!cell || isFixed(cell.column)) return;
    if (cell.column.type === "checkbox") p.onSet({ ...cell, value: cell.value !== true });
    else {
      typing.current = text === undefined ? typed(cell.value) : begin(cell, text);
      setEditing({ cell, text: typing.current });
    }
  };

  // A row that somebody moved or removed while one typed takes its editor along:
  // the text must not go on over the row that comes in its place.
  const typingIn = editing?.cell.row.id;
  const gone = typingIn !== undefined && !ids.includes(typingIn);
  const { onLost } = p;
  useEffect(() => {
    if (!gone || editing === undefined) return;
    onLost({ ...editing.cell, value: typing.current });
    setEditing(undefined);
  }, [gone, editing, onLost]);

  const finish = (text: string, key: "Enter" | "Tab" | "", shift: boolean) => {
    typing.current = text;
    keep();
    const next = key && step(selection, key, shift, false, size(scroller.current));
    if (next) {
      moved.current = true;
      setHeld({ selection: next, id: ids[next.active.row] });
      rows.scrollToIndex(next.active.row);
      scrollToColumn(scroller.current, layout, next.active.col);
    } else moved.current = key !== "";
  };

  const size = (el: HTMLElement | null) => ({
    rows: ids.length,
    cols: columns.length,
    page: Math.max(1, Math.floor((el?.clientHeight ?? 300) / rowHeight) - 2),
  });

  const clear = () => {
    const { from, to } = bounds(selection);
    const edits: CellEdit[] = [];
    for (let row = from.row; row <= to.row; row++) {
      for (let col = from.col; col <= to.col; col++) {
        const cell = cellAt({ row, col });
        if (cell && !isFixed(cell.column) && cell.value !== null) edits.push({ ...cell, value: null });
      }
    }
    const one = edits[0];
    if (edits.length === 1 && one) p.onSet(one);
    else if (edits.length > 1) p.onSetMany(edits);
  };

  const onKeyDown = (e: React.KeyboardEvent) => {
    if (editing !== undefined || e.nativeEvent.isComposing) return;
    const far = e.ctrlKey || e.metaKey;
    if (far && e.key.toLowerCase() === "z") p.onTakeBack();
    else if (far && e.key.toLowerCase() === "a")
      setHeld({
        selection: { anchor: { row: 0, col: 0 }, active: { row: ids.length - 1, col: columns.length - 1 } },
        id: ids.at(-1),
      });
    else if (e.key === "F4") p.onWhy();
    else if (e.key === "F2" || (e.key === "Enter" && !e.shiftKey)) edit();
    else if (e.key === " " && cellAt(active)?.column.type === "checkbox") edit();
    else if (e.key === "Delete" || e.key === "Backspace") clear();
    else if (e.key.length === 1 && !far && !e.altKey) edit(e.key === " " ? undefined : e.key);
    else {
      const next = step(selection, e.key, e.shiftKey, far, size(scroller.current));
      if (!next) return;
      select(next);
    }
    e.preventDefault();
  };

  const onPaste = (e: React.ClipboardEvent) => {
    if (editing !== undefined) return;
    e.preventDefault();
    const block = readBlock(e.clipboardData.getData("text/plain"));
    const { from } = bounds(selection);
    const edits = block.flatMap((line, r) =>
      line.flatMap((value, c) => {
        const cell = cellAt({ row: from.row + r, col: from.col + c });
        return cell && !isFixed(cell.column) ? [{ ...cell, value }] : [];
      }),
    );
    if (edits.length > 0) p.onSetMany(edits);
  };

  const onCopy = (e: React.ClipboardEvent) => {
    if (editing !== undefined) return;
    e.preventDefault();
    const { from, to } = bounds(selection);
    const block: string[][] = [];
    for (let row = from.row; row <= to.row; row++) {
      const line: string[] = [];
      for (let col = from.col; col <= to.col; col++) line.push(typed(cellAt({ row, col })?.value));
      block.push(line);
    }
    e.clipboardData.setData("text/plain", writeBlock(block));
  };

  const onMouseDown = (e: React.MouseEvent) => {
    const place = placeOf(e.target);
    if (!place) return;
    if ((e.target as HTMLElement).closest("input, select, a")) return;
    e.preventDefault();
    select(e.shiftKey ? { active: place, anchor: selection.anchor } : at(place));
  };

  const shown = rows.getVirtualItems();
  const places = shown.map((v) => v.index);
  const kept = typingIn === undefined ? [active.row] : [active.row, ids.indexOf(typingIn)];
  for (const index of kept) if (index >= 0 && index < ids.length && !places.includes(index)) places.push(index);
  const editor = editing !== undefined && (
    <CellEditor
      key={editing.cell.row.id + editing.cell.column.id}
      column={editing.cell.column}
      text={editing.text}
      people={p.people}
      onChange={(text) => {
        typing.current = text;
      }}
      onDone={finish}
      onCancel={() => {
        moved.current = true;
        setEditing(undefined);
      }}
    />
  );
  return (
    <div
      ref={scroller}
      className="grid"
      role="grid"
      aria-label={p.name}
      aria-rowcount={ids.length + 1}
      aria-colcount={columns.length}
      aria-multiselectable
      onKeyDown={onKeyDown}
      onCopy={onCopy}
      onPaste={onPaste}
      onMouseDown={onMouseDown}
      onDoubleClick={(e) => placeOf(e.target) && edit()}
    >
      <Head layout={layout} />
      <div role="rowgroup" style={{ height: rows.getTotalSize() + 16, width: layout.total, position: "relative" }}>
        {places.map((index) => {
          const { from, to } = bounds(selection);
          const touched = index >= from.row && index <= to.row;
          return (
            <GridRow
              key={ids[index]}
              store={store}
              id={ids[index] ?? ""}
              index={index}
              top={index * rowHeight}
              layout={layout}
              names={names}
              selection={touched ? selection : undefined}
              editor={editor && ids[index] === typingIn ? editor : undefined}
              editorAt={editing?.cell.column.id}
            />
          );
        })}
      </div>
    </div>
  );
}

function Head({ layout }: { layout: Layout }) {
  return (
    <div role="row" aria-rowindex={1} className="grid-head" style={{ width: layout.total }}>
      {layout.columns.map((c, col) => (
        <div
          key={c.id}
          role="columnheader"
          aria-colindex={col + 1}
          title={headTitle(c)}
          className={["cell", isNumeric(c) && "cell-number", col < layout.frozen && "cell-frozen"]
            .filter(Boolean)
            .join(" ")}
          style={{ width: layout.widths[col], left: col < layout.frozen ? leftOf(layout, col) : undefined }}
        >
          {c.name}
        </div>
      ))}
    </div>
  );
}

function headTitle(c: Column): string {
  if (c.clause) return t`Computed: ${c.clause}`;
  return `${c.name}: ${c.type}${c.required ? t`, required` : ""}${c.read_only ? t`. You may read it, and not change it` : ""}`;
}

function layOut(columns: Column[], label: string): Layout {
  const widths = columns.map((c) => widthOf(c, label));
  const labelAt = columns.findIndex((c) => c.name === label);
  return {
    columns,
    widths,
    frozen: labelAt === 1 ? 2 : Math.min(1, columns.length),
    total: widths.reduce((a, b) => a + b, 0),
  };
}

// begin gives what an editor starts with when a letter was typed: the letter,
// or for a choice the first option that begins with it.
function begin({ column, value }: CellEdit, letter: string): string {
  if (column.type !== "choice" || column.several) return letter;
  const meant = column.options?.find((o) => o.name.toLowerCase().startsWith(letter.toLowerCase()));
  return meant?.name ?? typed(value);
}

// follow keeps the active cell on its row when rows come and go around it.
function follow(s: Selection, id: string | undefined, ids: string[], cols: number): Selection {
  if (ids.length === 0) return start;
  let row = Math.min(s.active.row, ids.length - 1);
  if (id !== undefined && ids[row] !== id) {
    const found = ids.indexOf(id);
    if (found >= 0) row = found;
  }
  const active = { row, col: Math.min(s.active.col, cols - 1) };
  if (s.active.row === s.anchor.row && s.active.col === s.anchor.col) return at(active);
  return { active, anchor: { row: Math.min(s.anchor.row, ids.length - 1), col: Math.min(s.anchor.col, cols - 1) } };
}

function placeOf(target: EventTarget): Place | undefined {
  const cell = (target as HTMLElement).closest<HTMLElement>("[data-row]");
  return cell ? { row: Number(cell.dataset.row), col: Number(cell.dataset.col) } : undefined;
}

function scrollToColumn(el: HTMLElement | null, layout: Layout, col: number) {
  if (!el || col < layout.frozen) return;
  const left = leftOf(layout, col);
  const right = left + (layout.widths[col] ?? 0);
  const frozen = leftOf(layout, layout.frozen);
  if (left - frozen < el.scrollLeft) el.scrollLeft = left - frozen;
  else if (right > el.scrollLeft + el.clientWidth) el.scrollLeft = right - el.clientWidth;
}
