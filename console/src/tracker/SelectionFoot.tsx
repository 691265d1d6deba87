// What the selected cells come to, at the foot of the grid.
import { plural, t } from "@lingui/core/macro";
import { memo, useContext, useMemo, useSyncExternalStore } from "react";
import type { Column } from "../api/client";
import { Writing } from "../parts/writing";
import { shown } from "./format";
import type { Chosen } from "./Grid";
import type { RowStore } from "./rowStore";
import { sumsOf } from "./sums";

const mostCells = 500_000; // more are counted, and not added up

export const SelectionFoot = memo(function SelectionFoot(props: {
  store: RowStore;
  chosen: Chosen;
  columns: Column[];
}) {
  const { store, chosen, columns } = props;
  const forms = useContext(Writing);
  const drawn = useSyncExternalStore(store.subscribeAny, store.changed);
  const cells = chosen.rows.length * chosen.columns.length;
  const said = useMemo(() => {
    const parts = [
      plural(cells, { one: "# cell", other: "# cells" }),
      plural(chosen.rows.length, { one: "# row", other: "# rows" }),
    ];
    if (cells > mostCells || drawn < 0) return parts;
    const values = chosen.rows.flatMap((id) => {
      const row = store.row(id);
      return chosen.columns.map((name) => (row?.odd?.includes(name) ? "?" : row?.cells[name]));
    });
    const found = sumsOf(numbersOf(values, chosen, columns), isMoney(chosen, columns) ? 2 : undefined);
    const filled = sumsOf(values).filled;
    if (filled < cells) parts.push(t`${filled} filled in`);
    const number = (text: string) => shown(text, formatOf(chosen, columns), new Map(), forms);
    if (found.numbers > 1) {
      parts.push(t`sum ${number(found.sum)}`, t`average ${number(found.average)}`);
      parts.push(t`smallest ${number(found.least)}`, t`largest ${number(found.most)}`);
    }
    return parts;
  }, [cells, chosen, columns, drawn, forms, store]);
  return (
    <p className="grid-foot quiet" role="status" aria-label={t`Selected`}>
      {said.map((s) => (
        <span key={s}>{s}</span>
      ))}
    </p>
  );
});

// numbersOf gives what stands in columns of numbers alone: a loan's number is no amount.
function numbersOf(values: unknown[], chosen: Chosen, columns: Column[]): unknown[] {
  const is = chosen.columns.map((name) => columns.find((c) => c.name === name)?.type === "number");
  return values.filter((_, i) => is[i % is.length]);
}

// isMoney reports whether the numbers are amounts of one currency, which has its decimals.
const isMoney = (chosen: Chosen, columns: Column[]) => /^[A-Z]{3}$/.test(formatOf(chosen, columns).format ?? "");

// formatOf gives a column by whose format the sums are written: that of the numbers, where
// they have the same.
function formatOf(chosen: Chosen, columns: Column[]): Column {
  const all = columns.filter((c) => c.type === "number" && chosen.columns.includes(c.name));
  const same = all.every((c) => c.format === all[0]?.format) && all[0]?.format !== "rating";
  return { id: "", name: "", type: "number", bad_input: "mark", format: same ? all[0]?.format : undefined };
}
