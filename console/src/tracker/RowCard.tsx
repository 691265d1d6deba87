// One row over the whole page: each of its values with what can be done about it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "antd";
import { useContext, useEffect, useRef } from "react";
import type { Column } from "../api/client";
import { isFixed } from "../parts/may";
import { Writing } from "../parts/writing";
import { cellContent } from "./Cell";
import { useRow, type CardsProps } from "./Cards";
import { CellEditor } from "./editors/CellEditor";
import { written } from "./editors/written";
import { useSteady } from "../parts/useSteady";
import { useTyping } from "./useTyping";

type Props = CardsProps & {
  id: string;
  names: Map<string, string>;
  onField: (column: string) => void; // the value at hand
  onClose: () => void;
};

export function RowCard(p: Props) {
  const { store, id, columns } = p;
  const row = useRow(store, id);
  const forms = useContext(Writing);
  const { editing, begin, type, keep, cancel } = useTyping(p);
  const head = useRef<HTMLHeadingElement>(null);
  useEffect(() => head.current?.focus(), []);
  const isGone = row === undefined;
  const keepNow = useSteady(keep);
  useEffect(() => {
    if (isGone) keepNow(); // what was typed into it is told of as not saved
  }, [isGone, keepNow]);
  if (!row) {
    return (
      <section className="row-card" aria-label={t`Row`}>
        <p>
          <Trans>The row was deleted.</Trans>
        </p>
        <Button onClick={p.onClose}>{t`Back`}</Button>
      </section>
    );
  }
  const edit = (c: Column) => {
    p.onField(c.name);
    if (c.type === "checkbox") p.onSet({ row, column: c, value: row.cells[c.name] !== true });
    else {
      const was = store.typedInto(id, c.name)?.text ?? written(c, row.cells[c.name], p.people);
      begin({ cell: { row, column: c, value: row.cells[c.name] }, was, text: was });
    }
  };
  return (
    <section
      className="row-card"
      aria-label={row.label}
      onKeyDown={(e) => e.key === "Escape" && !editing && !isUnder(e) && p.onClose()}
    >
      <header>
        <h2 ref={head} tabIndex={-1}>
          {row.label}
        </h2>
        {p.actions}
        <Button onClick={p.onClose}>{t`Back`}</Button>
      </header>
      <p className="quiet">
        <Trans>in {row.tab}</Trans>
      </p>
      <dl>
        {columns.map((c) => (
          <div key={c.id}>
            <dt>{c.name}</dt>
            <dd>
              {editing?.cell.column.id === c.id ? (
                <div className="row-card-editor">
                  <CellEditor
                    column={c}
                    text={editing.was}
                    people={p.people}
                    onChange={type}
                    onDone={(text) => {
                      type(text);
                      keep();
                    }}
                    onCancel={cancel}
                  />
                </div>
              ) : (
                <>
                  <span className="row-card-value">
                    {cellContent(row, c, p.names, forms, store.typedInto(id, c.name))}
                  </span>
                  {!isFixed(c) && (
                    <Button
                      size="small"
                      aria-label={c.type === "checkbox" ? c.name : t`Edit ${c.name}`}
                      onClick={() => edit(c)}
                    >
                      {c.type !== "checkbox" ? t`Edit` : row.cells[c.name] === true ? t`Untick` : t`Tick`}
                    </Button>
                  )}
                </>
              )}
              {row.notes?.[c.name] && <p className="quiet row-card-note">{row.notes[c.name]}</p>}
              {editing?.cell.column.id !== c.id && p.beside(id, c.name)}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

// isUnder says that a menu or dialog of the card is open over it: Escape closes that one.
function isUnder({ target, currentTarget }: React.KeyboardEvent): boolean {
  return !currentTarget.contains(target as Node) || currentTarget.querySelector(".ant-dropdown-open") !== null;
}
