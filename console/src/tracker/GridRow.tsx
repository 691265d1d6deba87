// One row of the grid. It draws again when its own row changes, or where the
// selection touches it.
import { t } from "@lingui/core/macro";
import { memo, useCallback, useSyncExternalStore } from "react";
import { useDark } from "../parts/useDark";
import { CellText } from "./Cell";
import { sayLook, styleOf } from "./cellLook";
import { isFixed } from "../parts/may";
import { isNumeric } from "./format";
import { leftOf, type Layout } from "./layout";
import type { RowStore } from "./rowStore";
import { holds, type Selection } from "./selection";

type Props = {
  store: RowStore;
  id: string;
  index: number;
  top: number;
  layout: Layout;
  names: Map<string, string>;
  selection?: Selection; // only where it touches this row
  editor?: React.ReactNode;
  editorAt?: string; // id of the column in which it is
};

export const GridRow = memo(function GridRow({
  store,
  id,
  index,
  top,
  layout,
  names,
  selection,
  editor,
  editorAt,
}: Props) {
  const row = useSyncExternalStore(
    useCallback((notify) => store.subscribeRow(id, notify), [store, id]),
    () => store.row(id),
  );
  const isDark = useDark();
  if (!row) return null;
  const active = selection?.active.row === index ? selection.active.col : -1;
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      className="grid-row"
      style={{ transform: `translateY(${top}px)`, width: layout.total }}
    >
      {layout.columns.map((c, col) => {
        const odd = row.odd?.includes(c.name);
        const note = row.notes?.[c.name];
        const setOff = row.looks?.[c.name];
        const chosen = selection !== undefined && holds(selection, index, col);
        return (
          <div
            key={c.id}
            role="gridcell"
            aria-colindex={col + 1}
            aria-selected={chosen}
            aria-readonly={isFixed(c) || undefined}
            aria-invalid={odd || undefined}
            aria-description={describe(note, setOff)}
            tabIndex={col === active ? 0 : -1}
            data-row={index}
            data-col={col}
            title={note}
            className={[
              "cell",
              isNumeric(c) && "cell-number",
              chosen && "cell-chosen",
              col === active && "cell-active",
              note && "cell-note",
              c.clause && "cell-computed",
              col < layout.frozen && "cell-frozen",
              setOff && "cell-set-off",
            ]
              .filter(Boolean)
              .join(" ")}
            style={{
              ...styleOf(setOff, isDark),
              width: layout.widths[col],
              left: col < layout.frozen ? leftOf(layout, col) : undefined,
            }}
          >
            {editor && c.id === editorAt ? (
              editor
            ) : (
              <CellText row={row} column={c} names={names} pending={store.pending(id, c.name)} />
            )}
          </div>
        );
      })}
    </div>
  );
});

function describe(note: string | undefined, setOff: string | undefined): string | undefined {
  return [note && t`Note: ${note}`, setOff && t`Look: ${sayLook(setOff)}`].filter(Boolean).join(". ") || undefined;
}
