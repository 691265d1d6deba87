// The rows of a tab as cards, one beneath the other, where a window is too narrow for a grid.
// A card that is opened shows all of its row, and lets it be edited.
import { t } from "@lingui/core/macro";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useCallback, useContext, useEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import type { Column, Person, Row } from "../api/client";
import { useDark } from "../parts/useMedia";
import { Writing } from "../parts/writing";
import { cellContent } from "./Cell";
import { styleOf } from "./cellLook";
import type { Chosen } from "./Grid";
import { RowCard } from "./RowCard";
import type { RowStore } from "./rowStore";
import type { CellEdit } from "./useEdits";
import "./cards.css";

export type CardsProps = {
  store: RowStore;
  ids: string[];
  columns: Column[]; // that are shown, in order
  label: string;
  people: Person[];
  go?: string; // the row to open
  name: string;
  onActive: (row: Row | undefined, column: Column | undefined, chosen: Chosen) => void;
  onSight: (ids: string[]) => void;
  onSet: (edit: CellEdit) => void;
  onTyping: (edit: CellEdit | undefined) => void;
  beside: (row: string, column: string) => React.ReactNode;
  actions: React.ReactNode; // what can be done with the row that is open
};

const mostShown = 4; // values on a card, besides its name
const guess = 120; // pixels, until a card has been measured

export function Cards(p: CardsProps) {
  const { store, ids, columns, label, onActive, onSight, go } = p;
  const scroller = useRef<HTMLDivElement>(null);
  const [open, setOpen] = useState<string>();
  const names = useMemo(() => new Map(p.people.map((x) => [x.address, x.name])), [p.people]);
  // eslint-disable-next-line react-hooks/incompatible-library -- the compiler is not used here
  const cards = useVirtualizer({
    count: ids.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => guess,
    getItemKey: (index) => ids[index] ?? index,
    overscan: 3,
  });
  const shown = cards.getVirtualItems();
  const [first, last] = [shown[0]?.index ?? 0, shown.at(-1)?.index ?? -1];
  useEffect(() => onSight(ids.slice(first, last + 1)), [onSight, ids, first, last]);

  const show = useCallback(
    (id: string, column = label) => {
      setOpen(id);
      const of = columns.find((c) => c.name === column) ?? columns[0];
      onActive(store.row(id), of, { rows: [id], columns: of ? [of.name] : [] });
    },
    [columns, label, onActive, store],
  );
  const [gone, setGone] = useState<string>(); // the row of the address that was opened
  if (go && go !== gone && ids.includes(go)) {
    setGone(go);
    setOpen(go);
  }
  useEffect(() => {
    if (open !== undefined && open === gone) show(open);
    // once, when the address asked for it
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [gone]);

  return (
    <div ref={scroller} className="cards">
      <ul className="plain cards-list" aria-label={p.name} style={{ height: cards.getTotalSize() }}>
        {shown.map((v) => (
          <li
            key={v.key}
            ref={cards.measureElement}
            data-index={v.index}
            aria-setsize={ids.length}
            aria-posinset={v.index + 1}
            style={{ transform: `translateY(${v.start}px)` }}
          >
            <Card store={store} id={ids[v.index] ?? ""} columns={columns} label={label} names={names} onOpen={show} />
          </li>
        ))}
      </ul>
      {open !== undefined && (
        <RowCard
          {...p}
          key={open}
          id={open}
          names={names}
          onField={(column) => show(open, column)}
          onClose={() => {
            setOpen(undefined);
            onActive(undefined, undefined, { rows: [], columns: [] });
          }}
        />
      )}
    </div>
  );
}

type CardProps = {
  store: RowStore;
  id: string;
  columns: Column[];
  label: string;
  names: Map<string, string>;
  onOpen: (id: string) => void;
};

const Card = memo(function Card({ store, id, columns, label, names, onOpen }: CardProps) {
  const row = useRow(store, id);
  const forms = useContext(Writing);
  const isDark = useDark();
  if (!row) return null;
  const filled = columns.filter((c) => {
    const v = row.cells[c.name];
    return c.name !== label && v !== null && v !== undefined && v !== "" && v !== false;
  });
  const odd = row.odd?.length ?? 0;
  return (
    <article className="card" style={row.looks?.[label] ? styleOf(row.looks[label], isDark) : undefined}>
      <h2>
        <button type="button" onClick={() => onOpen(id)}>
          {row.label || t`(no name)`}
        </button>
      </h2>
      <dl>
        {filled.slice(0, mostShown).map((c) => (
          <div key={c.id}>
            <dt>{c.name}</dt>
            <dd>{cellContent(row, c, names, forms, store.typedInto(id, c.name))}</dd>
          </div>
        ))}
      </dl>
      {odd > 0 && <p className="wrong">{t`Something in it does not fit.`}</p>}
    </article>
  );
});

/** useRow gives a row as it is now. */
export function useRow(store: RowStore, id: string): Row | undefined {
  return useSyncExternalStore(
    useCallback((notify) => store.subscribeRow(id, notify), [store, id]),
    () => store.row(id),
  );
}
