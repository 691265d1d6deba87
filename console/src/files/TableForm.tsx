// One table of a file: where it is, what its columns are, and where it goes;
// each can be said otherwise.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Alert, AutoComplete, Checkbox, Input, InputNumber, Select, Table } from "antd";
import { useState } from "react";
import type { ReadTable, Tab } from "../api/client";
import { TypedSelect } from "../automation/TypedSelect";
import { box, type ColumnSaid, type TableSaid } from "./corrections";

const types = [
  "text",
  "number",
  "date",
  "date-time",
  "duration",
  "checkbox",
  "choice",
  "person",
  "rating",
  "link",
  "file",
];

type Props = { table: ReadTable; name: string; said: TableSaid; tabs: Tab[]; onSay: (said: TableSaid) => void };

export function TableForm({ table, name, said, tabs, onSay }: Props) {
  const say = (more: Partial<TableSaid>) => onSay({ ...said, ...more });
  const sayColumn = (n: number, more: ColumnSaid) =>
    say({ columns: { ...said.columns, [n]: { ...said.columns?.[n], ...more } } });
  const into = tabs.find((one) => one.name === (said.tab ?? name));
  return (
    <section className="table-form" aria-label={t`The table at ${table.range}`}>
      <h2>
        {table.range}: {plural(table.rows, { one: "# row", other: "# rows" })}
      </h2>
      <Checkbox checked={!said.leave_out} onChange={(e) => say({ leave_out: e.target.checked ? undefined : true })}>
        <Trans>Import this table</Trans>
      </Checkbox>
      <div className="table-form-fields">
        <RangeField key={table.range} range={table.range} onSay={(range) => say({ range, columns: {} })} />
        <label>
          <Trans>
            Header rows
            <InputNumber
              min={0}
              max={3}
              size="small"
              value={table.header_rows}
              onChange={(n) => say({ header_rows: n ?? 1, columns: {} })}
            />
          </Trans>
        </label>
        <label>
          <Trans>
            Tab
            <TypedSelect
              label={t`Tab`}
              size="small"
              value={said.tab ?? name}
              options={tabs.map((one) => ({ value: one.name, label: one.name }))}
              onChange={(tab) => say({ tab })}
            />
          </Trans>
        </label>
        <label>
          <Trans>
            Match rows by
            <Select
              size="small"
              allowClear
              placeholder={t`no column: add new rows`}
              value={said.key}
              options={table.columns.map((c) => ({ value: c.name }))}
              onChange={(key?: string) => say({ key })}
            />
          </Trans>
        </label>
      </div>
      {table.doubts.map((d) => (
        <Alert key={d} type="warning" showIcon title={d} />
      ))}
      <Table
        size="small"
        pagination={false}
        dataSource={table.columns.map((c, i) => ({ ...c, n: i + 1 }))}
        rowKey="n"
        columns={[
          {
            title: t`Import`,
            width: 64,
            render: (_, c) => (
              <Checkbox
                aria-label={t`Import ${c.name}`}
                checked={!said.columns?.[c.n]?.leave_out}
                onChange={(e) => sayColumn(c.n, { leave_out: e.target.checked ? undefined : true })}
              />
            ),
          },
          {
            title: into ? t`Column of ${into.name}` : t`Column`,
            width: 170,
            render: (_, c) => (
              <NameField
                key={c.name}
                name={c.name}
                columns={(into?.columns ?? []).filter((o) => !o.clause).map((o) => o.name)}
                onSay={(to) => sayColumn(c.n, { name: to })}
              />
            ),
          },
          {
            title: t`Type`,
            width: 124,
            render: (_, c) => (
              <Select
                size="small"
                aria-label={t`Type of ${c.name}`}
                style={{ width: 112 }}
                value={c.type}
                options={types.map((value) => ({ value }))}
                onChange={(type) => sayColumn(c.n, { type })}
              />
            ),
          },
          {
            title: t`Why`,
            render: (_, c) => (
              <span className="quiet">
                {c.reason}
                {c.odd.length > 0 && (
                  <strong className="odd-count">
                    ; {plural(c.odd.length, { one: "# odd cell", other: "# odd cells" })}
                  </strong>
                )}
                {c.day_order && (
                  <Select
                    size="small"
                    aria-label={t`Dates of ${c.name}`}
                    value={c.day_order}
                    options={[
                      { value: "day first", label: t`day first: 03/04 is 3 April` },
                      { value: "month first", label: t`month first: 03/04 is 4 March` },
                    ]}
                    onChange={(day_order) => sayColumn(c.n, { day_order })}
                    popupMatchSelectWidth={false}
                    style={{ display: "block" }}
                  />
                )}
                {c.no_clause && t`; results of formulas: ${c.no_clause}`}
                {c.clause && (
                  <Checkbox
                    className="compute"
                    checked={said.columns?.[c.n]?.computed ?? false}
                    onChange={(e) => sayColumn(c.n, { computed: e.target.checked || undefined })}
                  >
                    <Trans>
                      Compute it here: <code>{c.clause}</code>
                    </Trans>
                  </Checkbox>
                )}
              </span>
            ),
          },
        ]}
      />
    </section>
  );
}

// A column's name: another one, or that of the column it goes into.
function NameField({ name, columns, onSay }: { name: string; columns: string[]; onSay: (name: string) => void }) {
  const [text, setText] = useState(name);
  const done = (to: string) => to.trim() !== "" && to.trim() !== name && onSay(to.trim());
  return (
    <AutoComplete
      size="small"
      aria-label={t`Name of ${name}`}
      value={text}
      options={columns.map((value) => ({ value }))}
      showSearch={{
        filterOption: (typed, o) => typed === name || (o?.value ?? "").toLowerCase().includes(typed.toLowerCase()),
      }}
      onChange={(to: string) => setText(to)}
      onSelect={(to: string) => done(to)}
      onBlur={() => done(text)}
      status={columns.length > 0 && !columns.includes(name) ? "warning" : undefined}
      style={{ width: "100%" }}
      popupMatchSelectWidth={false}
    />
  );
}

function RangeField({ range, onSay }: { range: string; onSay: (range: string) => void }) {
  const [text, setText] = useState(range);
  const fits = box(text) !== undefined;
  const done = () => fits && text !== range && onSay(text.trim().toUpperCase());
  return (
    <label>
      <Trans>
        Range
        <Input
          size="small"
          status={fits ? undefined : "error"}
          style={{ width: 110 }}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onBlur={done}
          onPressEnter={done}
        />
      </Trans>
    </label>
  );
}
