// The names of the columns, above the rows. A click selects a whole column; a button opens
// its menu; its edge is dragged.
import { t } from "@lingui/core/macro";
import { Popover } from "antd";
import { memo, useState } from "react";
import type { Column } from "../api/client";
import { narrowest, type Arrangement } from "./arrangement";
import { isNumeric } from "./format";
import { leftOf, type Layout } from "./layout";

type Props = {
  layout: Layout;
  arrangement: Arrangement;
  menu?: number; // of which column the menu is open
  onMenu: (col: number | undefined) => void;
  content?: React.ReactNode; // of that menu
  onWidth: (column: Column, width: number) => void;
  fits: (col: number) => number; // how wide a column must be for what is in sight
};

/** GridHead is drawn again only when something of its own changes, and not as rows go by. */
export const GridHead = memo(function GridHead({ layout, arrangement, menu, onMenu, content, onWidth, fits }: Props) {
  const [edge, setEdge] = useState<{ col: number; from: number; width: number }>();
  return (
    <div role="row" aria-rowindex={1} className="grid-head" style={{ width: layout.total }}>
      {layout.columns.map((c, col) => {
        const by = arrangement.order.findIndex((o) => o.column === c.name);
        const down = arrangement.order[by]?.down;
        const picked = arrangement.picks[c.name] !== undefined;
        const button = (
          <button
            type="button"
            className="head-menu"
            tabIndex={-1}
            aria-label={t`Menu of ${c.name}`}
            title={t`Sort, filter or hide. Alt+↓ for the current column`}
            aria-haspopup="dialog"
            aria-expanded={menu === col}
            onMouseDown={(e) => e.stopPropagation()}
            onClick={() => onMenu(menu === col ? undefined : col)}
          >
            <svg viewBox="0 0 10 10" width="10" height="10" aria-hidden="true">
              <path d="M1 3h8M2.5 5.5h5M4 8h2" />
            </svg>
          </button>
        );
        return (
          <div
            key={c.id}
            role="columnheader"
            aria-colindex={col + 1}
            aria-sort={by < 0 ? undefined : down ? "descending" : "ascending"}
            data-head={col}
            title={headTitle(c)}
            className={[
              "cell",
              isNumeric(c) && "cell-number",
              col < layout.frozen && "cell-frozen",
              picked && "head-picked",
            ]
              .filter(Boolean)
              .join(" ")}
            style={{ width: layout.widths[col], left: col < layout.frozen ? leftOf(layout, col) : undefined }}
          >
            <span className="head-name">{c.name}</span>
            {by >= 0 && (
              <span className="head-sorted" aria-hidden="true">
                {down ? "↓" : "↑"}
                {arrangement.order.length > 1 ? by + 1 : ""}
              </span>
            )}
            {menu === col ? (
              <Popover
                open
                trigger="click"
                placement="bottomLeft"
                arrow={false}
                onOpenChange={(open) => !open && onMenu(undefined)}
                content={content}
              >
                {button}
              </Popover>
            ) : (
              button
            )}
            <span
              className="head-edge"
              title={t`Drag to resize; double-click to fit`}
              onMouseDown={(e) => e.stopPropagation()}
              onDoubleClick={(e) => {
                e.stopPropagation();
                onWidth(c, Math.max(narrowest, fits(col)));
              }}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                setEdge({ col, from: e.clientX, width: layout.widths[col] ?? narrowest });
              }}
              onPointerMove={(e) => {
                if (edge?.col === col && e.clientX !== edge.from)
                  onWidth(c, Math.max(narrowest, Math.round(edge.width + e.clientX - edge.from)));
              }}
              onPointerUp={() => setEdge(undefined)}
            />
          </div>
        );
      })}
    </div>
  );
});

function headTitle(c: Column): string {
  if (c.clause) return t`Computed: ${c.clause}`;
  return `${c.name}: ${c.type}${c.required ? t`, required` : ""}${c.read_only ? t`. You may read it, and not change it` : ""}`;
}
