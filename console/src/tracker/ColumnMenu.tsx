// The menu of a column: sort by it, choose rows by its values, and where it stands.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, Input } from "antd";
import { useContext, useMemo, useState } from "react";
import type { Column } from "../api/client";
import { Writing } from "../parts/writing";
import { blank, odd, pickText, sortedBy, type Arrangement } from "./arrangement";
import type { RowStore } from "./rowStore";

type Props = {
  store: RowStore;
  tab: string;
  column: Column;
  columns: Column[]; // shown, in order
  arrangement: Arrangement;
  names: Map<string, string>;
  width: number;
  onArrange: (part: Partial<Arrangement>) => void;
  onClose: () => void;
};

const listed = 200; // values; others are found by typing

export function ColumnMenu({ store, tab, column, columns, arrangement, names, width, onArrange, onClose }: Props) {
  const [find, setFind] = useState("");
  const forms = useContext(Writing);
  const all = useMemo(() => valuesOf(store, tab, column), [store, tab, column]);
  const picked = arrangement.picks[column.name];
  const [ticked, setTicked] = useState<string[]>(picked ?? []);
  const text = (v: string) => pickText(v, column, names, forms);
  const seen = all.filter(({ value }) => text(value).toLowerCase().includes(find.trim().toLowerCase()));
  const order = columns.map((c) => c.name);
  const at = order.indexOf(column.name);
  const others = arrangement.order.filter((by) => by.column !== column.name);
  const now = arrangement.order.find((by) => by.column === column.name);
  const act = (part: Partial<Arrangement>) => {
    onArrange(part);
    onClose();
  };
  const pick = (values: string[]) => {
    const others = Object.entries(arrangement.picks).filter(([name]) => name !== column.name);
    const picks = Object.fromEntries(values.length === 0 ? others : [...others, [column.name, values]]);
    act({ picks });
  };
  const moved = (by: number) => {
    const to = order.filter((n) => n !== column.name);
    to.splice(at + by, 0, column.name);
    return { columns: to };
  };
  const sort = (down: boolean, also: boolean) => act({ order: sortedBy(arrangement.order, column.name, down, also) });
  return (
    <div role="dialog" aria-label={t`Menu of ${column.name}`} className="column-menu">
      <div className="column-menu-part" role="group" aria-label={t`Sort`}>
        <Button autoFocus size="small" onClick={() => sort(false, false)}>{t`Sort ascending`}</Button>
        <Button size="small" onClick={() => sort(true, false)}>{t`Sort descending`}</Button>
        {others.length > 0 && (
          <>
            <Button size="small" onClick={() => sort(false, true)}>{t`Then sort ascending`}</Button>
            <Button size="small" onClick={() => sort(true, true)}>{t`Then sort descending`}</Button>
          </>
        )}
        {now && <Button size="small" onClick={() => act({ order: others })}>{t`Remove sort`}</Button>}
      </div>
      <form
        className="column-menu-values"
        aria-label={t`Filter by values`}
        onSubmit={(e) => {
          e.preventDefault();
          pick(ticked);
        }}
      >
        <Input
          size="small"
          allowClear
          placeholder={t`Find a value`}
          aria-label={t`Find a value`}
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
        <div className="column-menu-list">
          {seen.slice(0, listed).map(({ value, count }) => (
            <Checkbox
              key={value}
              checked={ticked.includes(value)}
              onChange={(e) => setTicked(e.target.checked ? [...ticked, value] : ticked.filter((v) => v !== value))}
            >
              {text(value)} <span className="quiet">{count}</span>
            </Checkbox>
          ))}
          {seen.length === 0 && (
            <span className="quiet">
              <Trans>No matching values.</Trans>
            </span>
          )}
          {seen.length > listed && (
            <span className="quiet">
              {plural(seen.length - listed, {
                one: "# more value: type to find it",
                other: "# more values: type to find them",
              })}
            </span>
          )}
        </div>
        <span className="inline-fields">
          <Button size="small" type="primary" htmlType="submit" disabled={ticked.length === 0 && !picked}>
            {ticked.length === 0 ? t`Show all rows` : t`Apply filter`}
          </Button>
          {picked && <Button size="small" onClick={() => pick([])}>{t`Remove filter`}</Button>}
        </span>
      </form>
      <div className="column-menu-part" role="group" aria-label={t`Column`}>
        <Button
          size="small"
          disabled={columns.length < 2}
          onClick={() => act({ columns: order.filter((n) => n !== column.name) })}
        >{t`Hide column`}</Button>
        <Button size="small" disabled={at <= 0} onClick={() => act(moved(-1))}>{t`Move left`}</Button>
        <Button size="small" disabled={at === order.length - 1} onClick={() => act(moved(1))}>{t`Move right`}</Button>
        <Button size="small" onClick={() => act({ frozen: at + 1 })}>{t`Freeze up to here`}</Button>
        <Button size="small" onClick={() => act({ frozen: 0 })}>{t`Unfreeze all`}</Button>
        <Button
          size="small"
          onClick={() => onArrange({ widths: { ...arrangement.widths, [column.name]: width + 40 } })}
        >{t`Wider`}</Button>
        <Button
          size="small"
          disabled={width <= 80}
          onClick={() => onArrange({ widths: { ...arrangement.widths, [column.name]: width - 40 } })}
        >{t`Narrower`}</Button>
      </div>
    </div>
  );
}

type Counted = { value: string; count: number };

/** valuesOf gives the values that a column has in a tab, each with how often it is there. */
export function valuesOf(store: RowStore, tab: string, column: Column): Counted[] {
  const counts = new Map<string, number>();
  for (const id of store.ids(tab) ?? []) {
    const row = store.row(id);
    if (!row) continue;
    const v = row.cells[column.name];
    const values = row.odd?.includes(column.name)
      ? [odd]
      : Array.isArray(v) && v.length > 0
        ? v.map(String)
        : [Array.isArray(v) ? blank : String(v ?? blank)];
    for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  }
  const place = new Map((column.options ?? []).map((o, i) => [o.name, i]));
  const compare = new Intl.Collator(undefined, { numeric: true }).compare;
  const rank = (v: string) => (v === blank ? 2 : v === odd ? 1 : 0);
  return [...counts]
    .map(([value, count]) => ({ value, count }))
    .sort(
      (a, b) =>
        rank(a.value) - rank(b.value) ||
        (place.get(a.value) ?? place.size) - (place.get(b.value) ?? place.size) ||
        compare(a.value, b.value),
    );
}
