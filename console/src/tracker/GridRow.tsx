// One row of the grid. It draws again when its own row changes, or where the
// selection touches it.
import { t } from "@lingui/core/macro";
import { memo, useCallback, useContext, useSyncExternalStore } from "react";
import { Writing } from "../parts/writing";
import { cellContent } from "./Cell";
import { sayLook, styleOf } from "./cellLook";
import { isFixed } from "../parts/may";
import type { Row } from "../api/client";
import { gapBefore, leftOf, type Layout } from "./layout";
import type { RowStore } from "./rowStore";
import { holds, type Selection } from "./selection";
import { textWidth } from "./textWidth";
import type { Edge } from "./useRowDrag";

const edges = 18; // pixels at both sides of what a cell shows, and a little

type Props = {
  store: RowStore;
  id: string;
  was?: Row; // a row that is not here any more, as it was
  grip?: boolean; // it can be dragged
  drop?: Edge; // where what is dragged would go
  index: number;
  top: number;
  layout: Layout;
  from: number; // the first and the last column in sight, of those that are not frozen
  to: number;
  isDark: boolean;
  names: Map<string, string>;
  selection?: Selection; // only where it touches this row
  others?: Map<string, string[]>; // who is in which of its columns
  editor?: React.ReactNode;
  editorAt?: string; // id of the column in which it is
};

export const GridRow = memo(function GridRow({
  store,
  id,
  was,
  grip,
  drop,
  index,
  top,
  layout,
  from,
  to,
  isDark,
  names,
  selection,
  others,
  editor,
  editorAt,
}: Props) {
  const stands = useSyncExternalStore(
    useCallback((notify) => store.subscribeRow(id, notify), [store, id]),
    () => store.row(id),
  );
  const row = was ?? stands;
  const forms = useContext(Writing);
  if (!row) return null;
  const active = selection?.active.row === index ? selection.active.col : -1;
  const first = Math.max(from, layout.frozen);
  const gap = gapBefore(layout, first);
  // Cells stand beside each other as words do, for that is what a browser lays out soonest. What
  // is kept though it is out of sight, and what something lies over, is placed by itself.
  const place = (col: number, inSight: boolean) => {
    if (!inSight) return { ...layout.cells[col]?.style, left: leftOf(layout, col) };
    return col === first && gap > 0 ? { ...layout.cells[col]?.style, marginLeft: gap } : layout.cells[col]?.style;
  };
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      data-row={index}
      className={
        "grid-row" +
        (was ? " grid-row-left" : "") +
        (editor ? " grid-row-edited" : "") +
        (drop ? ` grid-row-drop-${drop}` : "")
      }
      style={{ transform: `translateY(${top}px)`, width: layout.total }}
    >
      {layout.columns.map((c, col) => {
        const inSight = col < layout.frozen || (col >= from && col <= to);
        if (!inSight && col !== active && c.id !== editorAt) return null;
        const odd = row.odd?.includes(c.name);
        const note = row.notes?.[c.name];
        const setOff = row.looks?.[c.name];
        const typed = store.typedInto(id, c.name);
        const who = others?.get(c.name);
        const chosen = selection !== undefined && holds(selection, index, col);
        const isEdited = editor !== undefined && c.id === editorAt;
        const content = isEdited ? editor : cellContent(row, c, names, forms, typed);
        const fits = typeof content === "string" && textWidth(content) <= (layout.widths[col] ?? 0) - edges;
        return (
          <div
            key={c.id}
            role="gridcell"
            aria-colindex={col + 1}
            aria-selected={chosen}
            aria-readonly={isFixed(c) || undefined}
            aria-invalid={odd || typed?.why !== undefined || undefined}
            aria-description={describe(note, setOff, typed?.why, who)}
            tabIndex={col === active ? 0 : -1}
            data-col={col}
            title={note}
            className={
              (layout.cells[col]?.className ?? "") +
              (chosen ? " cell-chosen" : "") +
              (grip && col === 0 ? " cell-gripped" : "") +
              (col === active ? " cell-active" : "") +
              (note ? " cell-note" : "") +
              (setOff ? " cell-set-off" : "") +
              (typed?.why ? " cell-refused" : "") +
              (who ? " cell-others" : "") +
              (fits ? " cell-fits" : "") +
              (isEdited ? " cell-edited" : "") +
              (inSight ? "" : " cell-apart")
            }
            style={setOff ? { ...styleOf(setOff, isDark), ...place(col, inSight) } : place(col, inSight)}
          >
            {grip && col === 0 && <span className="row-grip" draggable title={t`Drag to move`} aria-hidden />}
            {who && (
              <span className="cell-who" title={who.join(", ")} aria-hidden>
                {who.map(initials).join(" ")}
              </span>
            )}
            {content}
          </div>
        );
      })}
    </div>
  );
});

// initials are the first letters of the first and the last part of a name.
function initials(name: string): string {
  const parts = name.split(" ").filter(Boolean);
  return [parts[0], parts.length > 1 ? parts.at(-1) : ""].map((part) => part?.[0] ?? "").join("");
}

function describe(note?: string, setOff?: string, refused?: string, who?: string[]): string | undefined {
  if (!note && !setOff && !refused && !who) return undefined;
  return [
    refused && t`Not saved: ${refused}`,
    note && t`Note: ${note}`,
    setOff && t`Style: ${sayLook(setOff)}`,
    who && t`Here: ${who.join(", ")}`,
  ]
    .filter(Boolean)
    .join(". ");
}
