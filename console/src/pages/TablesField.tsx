// Tables of a kind of page: rows of other tabs that concern its row, as they are now.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Input, InputNumber, Select } from "antd";
import type { Column, Tracker } from "../api/client";
import { ColumnsField } from "../automation/ColumnsField";
import { TabField } from "../automation/TabField";
import { freeName, NameField } from "../automation/NameField";
import { TakeOff } from "../automation/TakeOff";
import { fields, text, texts, without, type Cells } from "../rules/body";
import { readConcerns, writeConcerns } from "./pattern";

type Props = { tracker: Tracker; own: Column[]; value: Cells; onChange: (to: Cells) => void };

export function TablesField({ tracker, own, value, onChange }: Props) {
  const all = Object.entries(value);
  const names = Object.keys(value);
  const begun = (name: string) => {
    const tab = tracker.tabs.find((one) => one.name === name);
    const column = tab?.columns[0]?.name ?? "";
    return {
      tab: name,
      where: writeConcerns({ column, own: own[0]?.name ?? "" }),
      columns: tab?.columns.slice(0, 4).map((c) => c.name) ?? [],
    };
  };
  const first = tracker.tabs[0];
  return (
    <div className="cells-field" role="group" aria-label={t`Tables`}>
      {all.map(([name, table], i) => (
        <TableFields
          key={i}
          tracker={tracker}
          own={own}
          nth={i + 1}
          name={name}
          taken={names.filter((_, k) => k !== i)}
          table={fields(table)}
          begun={begun}
          onChange={(n, to) => onChange(Object.fromEntries(all.map((e, k) => (k === i ? [n, to] : e))))}
          onDelete={() => onChange(Object.fromEntries(all.filter((_, k) => k !== i)))}
        />
      ))}
      <Button
        type="link"
        size="small"
        disabled={!first}
        onClick={() => first && onChange({ ...value, [freeName((n) => t`Table ${n}`, names)]: begun(first.name) })}
      >
        {t`Add table`}
      </Button>
    </div>
  );
}

type TableProps = {
  tracker: Tracker;
  own: Column[];
  nth: number;
  name: string;
  taken: string[]; // names of the other tables
  table: Cells;
  begun: (tab: string) => Cells;
  onChange: (name: string, table: Cells) => void;
  onDelete: () => void;
};

function TableFields({ tracker, own, nth, name, taken, table, begun, onChange, onDelete }: TableProps) {
  const tab = tracker.tabs.find((one) => one.name === text(table.tab));
  const columns = tab?.columns ?? [];
  const names = columns.map((c) => ({ value: c.name, label: c.name }));
  const concerns = readConcerns(text(table.where));
  const put = (more: Cells) => onChange(name, without({ ...table, ...more }));
  return (
    <div className="rule-parts" role="group" aria-label={t`Table ${nth}`}>
      <span className="inline-fields">
        <Trans>
          <NameField
            label={t`Name of table ${nth}`}
            value={name}
            taken={taken}
            onChange={(to) => onChange(to, table)}
          />
          of rows in
          <TabField
            tracker={tracker}
            label={t`Tab of table ${nth}`}
            value={text(table.tab)}
            onChange={(to) => onChange(name, begun(to))}
          />
          where
        </Trans>
        {concerns ? (
          <>
            <Trans>
              <Select
                aria-label={t`Column of table ${nth} that matches`}
                value={concerns.column}
                options={names}
                onChange={(column: string) => put({ where: writeConcerns({ ...concerns, column }) })}
                popupMatchSelectWidth={false}
              />
              is the row’s
              <Select
                aria-label={t`Column of the row that table ${nth} matches`}
                value={concerns.own}
                options={own.map((c) => ({ value: c.name, label: c.name }))}
                onChange={(to: string) => put({ where: writeConcerns({ ...concerns, own: to }) })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </>
        ) : (
          <Input
            className="clause"
            aria-label={t`Clause of table ${nth}`}
            value={text(table.where)}
            onChange={(e) => put({ where: e.target.value })}
            style={{ width: 320 }}
          />
        )}
        <TakeOff label={t`Delete table ${name}`} onClick={onDelete} />
      </span>
      <span className="inline-fields">
        <Trans>
          showing
          <ColumnsField
            label={t`Columns of table ${nth}`}
            columns={columns.map((c) => c.name)}
            value={texts(table.columns)}
            onChange={(to) => put({ columns: to })}
          />
        </Trans>
      </span>
      <span className="inline-fields">
        <Trans>
          sorted by
          <Select
            aria-label={t`Table ${nth} is sorted by`}
            allowClear
            placeholder={t`their order in the tab`}
            value={text(table.order) || undefined}
            options={names}
            onChange={(order?: string) => put({ order })}
            popupMatchSelectWidth={false}
          />
          at most
          <InputNumber
            aria-label={t`Most rows of table ${nth}`}
            min={1}
            placeholder={t`all`}
            value={table.limit === undefined ? null : Number(text(table.limit))}
            onChange={(limit) => put({ limit: limit ?? undefined })}
            style={{ width: 70 }}
          />
          rows
        </Trans>
      </span>
    </div>
  );
}
