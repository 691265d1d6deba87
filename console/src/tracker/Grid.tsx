// The grid: virtual rows, one active cell, ranges, editing and the clipboard,
// all of it by keyboard.
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Column, Person, Row } from "../api/client";
import { isFixed } from "../parts/may";
import { LeftWhileTyping } from "./CellProblem";
import { CellEditor } from "./editors/CellEditor";
import { written } from "./editors/written";
import { useDark, useNarrow } from "../parts/useMedia";
import { useSteady } from "../parts/useSteady";
import type { Arrangement } from "./arrangement";
import { ColumnMenu } from "./ColumnMenu";
import { GridHead } from "./GridHead";
import { GridRow } from "./GridRow";
import { cellSelector, followLink, headOf, layOut, leftOf, placeOf, scrollToColumn, widestOf } from "./layout";
import type { Paste } from "./paste";
import type { RowStore } from "./rowStore";
import { at, bounds, clamp, holds, step, type Place, type Selection } from "./selection";
import { useBlocks } from "./useBlocks";
import { useDragged } from "./useDragged";
import { useTyping } from "./useTyping";
import { useRowDrag, type RowDrag } from "./useRowDrag";
import type { CellEdit } from "./useEdits";
import { changes, useAnchored, useHeld } from "./useHeld";
import "./grid.css";

const rowHeight = 28;

// Chosen are the cells of the range that is drawn: each column of each row.
export type Chosen = { rows: string[]; columns: string[] };

type Props = {
  store: RowStore;
  ids: string[];
  tab: string; // its id
  columns: Column[]; // that are shown, in order
  label: string;
  arrangement: Arrangement;
  onArrange: (part: Partial<Arrangement>) => void;
  onFind: () => void; // somebody wants to look for something
  onReplace: () => void;
  people: Person[];
  go?: string; // the row to go to
  name: string;
  onActive: (row: Row | undefined, column: Column | undefined, chosen: Chosen) => void;
  onSight: (ids: string[]) => void; // of the rows that are in sight
  onSet: (edit: CellEdit) => void;
  onTyping: (edit: CellEdit | undefined) => void; // what stands in an editor, at each key
  onSetMany: (edits: CellEdit[]) => void;
  beside: (row: string, column: string) => React.ReactNode; // what is to be said at the cell at hand
  onAdrift: (left: string) => void; // a key was meant for a row that is not here any more
  others: Map<string, Map<string, string[]>>; // who else is in which cells, by row and column
  drag?: RowDrag; // what moves the selected rows
  onPaste: (plan: Paste, cells: CellEdit[]) => void; // to be asked about
  onUndo: () => void;
  onRedo: () => void;
  onWhy: () => void;
};

export function Grid(p: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const { editing, begin, type, keep, cancel } = useTyping(p);
  const moved = useRef(false); // by hand, so that focus follows
  const [menu, setMenu] = useState<number>(); // of which column the menu is open
  const { widths, frozen } = p.arrangement;
  const isNarrow = useNarrow();
  const stay = isNarrow ? Math.min(1, frozen ?? 1) : frozen; // of a narrow window, one column at most
  const layout = useMemo(() => layOut(p.columns, p.label, widths, stay), [p.columns, p.label, widths, stay]);
  const names = useMemo(() => new Map(p.people.map((x) => [x.address, x.name])), [p.people]);
  const { selection, left, hold, onFocus, onBlur } = useHeld(p.ids, p.columns.length, scroller);
  const active = selection.active;
  const isDark = useDark();
  const [isAside, setAside] = useState(false); // scrolled to the right
  // eslint-disable-next-line react-hooks/incompatible-library -- the compiler is not used here
  const rows = useVirtualizer({
    count: p.ids.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 1,
    scrollPaddingStart: rowHeight + 4,
    scrollPaddingEnd: 20,
  });
  const cols = useVirtualizer({
    horizontal: true,
    count: layout.columns.length,
    getScrollElement: () => scroller.current,
    estimateSize: (col) => layout.widths[col] ?? 0,
    overscan: isAside ? 1 : 0, // at the left, most look down the rows
  });
  useEffect(() => cols.measure(), [cols, layout]);
  const sight = cols.getVirtualItems();
  const { onActive, store, ids, columns, go } = p;

  const select = (s: Selection) => {
    moved.current = true;
    if (editing !== undefined) keep();
    hold(s);
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
    hold(at({ row: index, col: active.col }));
    rows.scrollToIndex(index, { align: "center" });
    // only when another row is asked for, not whenever rows come and go
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [go, ids.length > 0]);

  useLayoutEffect(() => {
    if (!moved.current || editing !== undefined) return;
    const cell = scroller.current?.querySelector<HTMLElement>(cellSelector(active));
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
      const was = store.typedInto(cell.row.id, cell.column.name)?.text ?? written(cell.column, cell.value, p.people);
      begin({ cell, was, text: text ?? was });
    }
  };

  // A row that somebody moved or removed while one types in it stays here until one has done.
  const typingIn = editing?.cell.row.id;
  const gone = typingIn !== undefined && !ids.includes(typingIn) ? editing?.cell.row : undefined;

  const finish = (text: string, key: "Enter" | "Tab" | "", shift: boolean) => {
    type(text);
    keep();
    const next = key && !gone && step(selection, key, shift, false, size(scroller.current));
    if (gone) hold(selection);
    if (next) {
      moved.current = true;
      hold(next);
      rows.scrollToIndex(next.active.row);
      scrollToColumn(scroller.current, layout, next.active.col);
    } else moved.current = key !== "";
  };

  const size = (el: HTMLElement | null) => ({
    rows: ids.length,
    cols: columns.length,
    page: Math.max(1, Math.floor((el?.clientHeight ?? 300) / rowHeight) - 2),
  });

  const busy = editing !== undefined || left !== undefined;
  const { clear, fill, onCopy, onCut, paste } = useBlocks({
    ...p,
    selection,
    cellAt,
    rows: ids.length,
    written: (cell) => written(cell.column, cell.value, p.people),
    busy,
  });
  useAnchored(scroller, activeId, active.row, rowHeight, editing !== undefined);

  const onKeyDown = (e: React.KeyboardEvent) => {
    if (editing !== undefined || e.nativeEvent.isComposing || !inside(e)) return;
    const far = e.ctrlKey || e.metaKey;
    const letter = e.key.toLowerCase();
    if (far && (letter === "y" || (letter === "z" && e.shiftKey))) p.onRedo();
    else if (far && letter === "z") p.onUndo();
    else if (far && letter === "a") range(corner.first, corner.last);
    else if (e.key === " " && (e.shiftKey || far))
      range(
        { row: e.shiftKey ? active.row : 0, col: e.shiftKey ? 0 : active.col },
        { row: e.shiftKey ? active.row : corner.last.row, col: e.shiftKey ? corner.last.col : active.col },
      );
    else if (far && letter === "f") p.onFind();
    else if (far && letter === "h") p.onReplace();
    else if (left !== undefined && changes(e)) p.onAdrift(left);
    else if (e.altKey && e.key === "ArrowDown") setMenu(active.col);
    else if (far && letter === "d") fill(false);
    else if (far && letter === "r" && selection.anchor.col !== active.col) fill(true);
    else if (e.key === "Enter" && far) followLink(scroller.current, active);
    else if (e.key === "Tab")
      return; // on to what comes after the grid
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

  // inside says that something happened in the grid, and not in what lies over it.
  const inside = ({ target }: React.SyntheticEvent) =>
    scroller.current?.contains(target as Node) && !(target as Element).closest(".grid-beside");
  const openMenu = (col: number | undefined) => {
    if (editing !== undefined) keep();
    setMenu(col);
    moved.current = col === undefined; // back to the cell at hand
  };

  const under = menu === undefined ? undefined : columns[menu]; // the open menu
  const onMenu = useSteady(openMenu);
  const onWidth = useSteady((column: Column, width: number) =>
    p.onArrange({ widths: { ...widths, [column.name]: width } }),
  );
  const fits = useSteady((col: number) => widestOf(scroller.current, col));

  const corner = { first: { row: 0, col: 0 }, last: { row: ids.length - 1, col: columns.length - 1 } };
  // range selects from one place to another, without going there.
  const range = (from: Place, to: Place) => {
    if (editing !== undefined) keep();
    hold({ active: from, anchor: to });
    moved.current = true;
  };

  const onMouseDown = (e: React.MouseEvent) => {
    if (!inside(e) || (e.target as Element).closest(".row-grip")) return;
    const head = headOf(e.target);
    if (head !== undefined) {
      e.preventDefault();
      const first = e.shiftKey ? selection.anchor.col : head;
      return range({ row: 0, col: first }, { row: corner.last.row, col: head });
    }
    const place = placeOf(e.target);
    if (!place) return;
    if (e.button !== 0) {
      if (!holds(selection, place.row, place.col)) select(at(place)); // the menu is about it
      return;
    }
    if ((e.target as HTMLElement).closest("input, select, a")) return;
    e.preventDefault();
    select(e.shiftKey ? { active: place, anchor: selection.anchor } : at(place));
    drag(e.shiftKey ? selection.anchor : place);
  };
  const drag = useDragged(scroller, (anchor, to) => {
    const active = { row: clamp(to.row, corner.last.row), col: clamp(to.col, corner.last.col) };
    moved.current = true;
    hold({ active, anchor });
    rows.scrollToIndex(active.row);
  });

  const shown = rows.getVirtualItems();
  // Rows that leave at one edge while one scrolls are drawn over for those that come at the
  // other. The cell at hand keeps its own, and with it the focus.
  const [reused, setReused] = useState(1);
  if (shown.length > reused) setReused(shown.length);
  const first = shown[0]?.index ?? 0;
  const last = shown.at(-1)?.index ?? -1;
  const { onSight } = p;
  useEffect(() => onSight(ids.slice(first, last + 1)), [onSight, ids, first, last]);
  const places = shown.map((v) => v.index);
  const kept = typingIn === undefined || gone ? [active.row] : [active.row, ids.indexOf(typingIn)];
  const slot = (index: number) => (kept.includes(index) ? reused + kept.indexOf(index) : index % reused);
  for (const index of kept) if (index >= 0 && index < ids.length && !places.includes(index)) places.push(index);
  // While one scrolls, elements stay where they are in the page and are not put in order of
  // the rows, for each that moves is laid out anew. At rest they stand as they are read.
  if (rows.isScrolling) places.sort((a, b) => slot(a) - slot(b));
  const editor = editing !== undefined && (
    <CellEditor
      key={editing.cell.row.id + editing.cell.column.id}
      column={editing.cell.column}
      text={editing.text}
      people={p.people}
      onChange={type}
      onDone={finish}
      onCancel={() => {
        moved.current = true;
        cancel();
      }}
    />
  );
  const rowDrag = useRowDrag({ drag: p.drag, tab: p.tab, ids });
  const row = { store, layout, from: sight[0]?.index ?? 0, to: sight.at(-1)?.index ?? 0, isDark, names };
  const drawn = places.map((index) => {
    const { from, to } = bounds(selection);
    const touched = index >= from.row && index <= to.row && left === undefined;
    return (
      <GridRow
        {...row}
        key={kept.includes(index) ? ids[index] : slot(index)}
        id={ids[index] ?? ""}
        grip={touched && p.drag !== undefined}
        drop={rowDrag.over?.row === index ? rowDrag.over.at : undefined}
        index={index}
        top={index * rowHeight}
        selection={touched ? selection : undefined}
        others={p.others.get(ids[index] ?? "")}
        editor={editor && ids[index] === typingIn ? editor : undefined}
        editorAt={editing?.cell.column.id}
      />
    );
  });
  // under the same key as before, so that its editor stays
  if (gone)
    drawn.push(
      <GridRow
        {...row}
        key={gone.id}
        id={gone.id}
        was={gone}
        index={active.row}
        top={active.row * rowHeight}
        editor={editor || undefined}
        editorAt={editing?.cell.column.id}
      />,
    );
  const beside = gone ? (
    <LeftWhileTyping was={gone} now={store.row(gone.id)} />
  ) : (
    editing === undefined && activeId !== undefined && p.beside(activeId, columns[active.col]?.name ?? "")
  );
  return (
    <div
      ref={scroller}
      className={isAside ? "grid grid-aside" : "grid"}
      role="grid"
      aria-label={p.name}
      aria-rowcount={ids.length + 1}
      aria-colcount={columns.length}
      aria-multiselectable
      onScroll={(e) => setAside(e.currentTarget.scrollLeft > 0)}
      onKeyDown={onKeyDown}
      onCopy={(e) => inside(e) && onCopy(e)}
      onCut={(e) => inside(e) && onCut(e)}
      onPaste={(e) => inside(e) && paste(e)}
      onMouseDown={onMouseDown}
      {...rowDrag.on}
      onFocus={onFocus}
      onBlur={onBlur}
      onDoubleClick={(e) => inside(e) && placeOf(e.target) && edit()}
    >
      <GridHead
        layout={layout}
        arrangement={p.arrangement}
        menu={menu}
        onMenu={onMenu}
        content={
          under && (
            <ColumnMenu
              store={store}
              tab={p.tab}
              column={under}
              columns={columns}
              arrangement={p.arrangement}
              names={names}
              width={layout.widths[menu ?? 0] ?? 0}
              onArrange={p.onArrange}
              onClose={() => openMenu(undefined)}
            />
          )
        }
        onWidth={onWidth}
        fits={fits}
      />
      <div className="grid-body" style={{ height: rows.getTotalSize() + 16, width: layout.total }}>
        <div role="rowgroup">{drawn}</div>
        {beside && (
          <div className="grid-beside" style={{ top: (active.row + 1) * rowHeight, left: leftOf(layout, active.col) }}>
            {beside}
          </div>
        )}
      </div>
    </div>
  );
}
