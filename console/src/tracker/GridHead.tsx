// The names of the columns, above the rows. A click selects a whole column.
import { t } from "@lingui/core/macro";
import type { Column } from "../api/client";
import { isNumeric } from "./format";
import { leftOf, type Layout } from "./layout";

export function GridHead({ layout }: { layout: Layout }) {
  return (
    <div role="row" aria-rowindex={1} className="grid-head" style={{ width: layout.total }}>
      {layout.columns.map((c, col) => (
        <div
          key={c.id}
          role="columnheader"
          aria-colindex={col + 1}
          data-head={col}
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
