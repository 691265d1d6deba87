// One table of a file: where it is, what its columns are, and where it goes;
// each can be said otherwise.
import { Alert, Checkbox, Input, InputNumber, Select, Table } from "antd";
import { useState } from "react";
import type { ReadTable } from "../api/client";
import { plural } from "../parts/text";
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

type Props = { table: ReadTable; name: string; said: TableSaid; tabs: string[]; onSay: (said: TableSaid) => void };

export function TableForm({ table, name, said, tabs, onSay }: Props) {
  const say = (more: Partial<TableSaid>) => onSay({ ...said, ...more });
  const sayColumn = (n: number, more: ColumnSaid) =>
    say({ columns: { ...said.columns, [n]: { ...said.columns?.[n], ...more } } });
  return (
    <section className="table-form" aria-label={`The table at ${table.range}`}>
      <h2>
        {table.range}: {plural(table.rows, "row")}
      </h2>
      <Checkbox checked={!said.leave_out} onChange={(e) => say({ leave_out: e.target.checked ? undefined : true })}>
        Import this table
      </Checkbox>
      <div className="table-form-fields">
        <RangeField key={table.range} range={table.range} onSay={(range) => say({ range, columns: {} })} />
        <label>
          Header rows
          <InputNumber
            min={0}
            max={3}
            size="small"
            value={table.header_rows}
            onChange={(n) => say({ header_rows: n ?? 1, columns: {} })}
          />
        </label>
        <label>
          Tab
          <Select
            size="small"
            showSearch
            mode="tags"
            maxCount={1}
            value={[said.tab ?? name]}
            options={tabs.map((value) => ({ value }))}
            onChange={(v: string[]) => say({ tab: v.at(-1) })}
          />
        </label>
        <label>
          Match rows by
          <Select
            size="small"
            allowClear
            placeholder="no column: add new rows"
            value={said.key}
            options={table.columns.map((c) => ({ value: c.name }))}
            onChange={(key?: string) => say({ key })}
          />
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
            title: "Import",
            width: 64,
            render: (_, c) => (
              <Checkbox
                aria-label={`Import ${c.name}`}
                checked={!said.columns?.[c.n]?.leave_out}
                onChange={(e) => sayColumn(c.n, { leave_out: e.target.checked ? undefined : true })}
              />
            ),
          },
          { title: "Column", dataIndex: "name" },
          {
            title: "Type",
            width: 124,
            render: (_, c) => (
              <Select
                size="small"
                aria-label={`Type of ${c.name}`}
                style={{ width: 112 }}
                value={c.type}
                options={types.map((value) => ({ value }))}
                onChange={(type) => sayColumn(c.n, { type })}
              />
            ),
          },
          {
            title: "Why",
            render: (_, c) => (
              <span className="quiet">
                {c.reason}
                {c.odd.length > 0 && <strong className="odd-count">; {plural(c.odd.length, "odd cell")}</strong>}
                {c.no_clause && `; results of formulas: ${c.no_clause}`}
                {c.clause && (
                  <Checkbox
                    className="compute"
                    checked={said.columns?.[c.n]?.computed ?? false}
                    onChange={(e) => sayColumn(c.n, { computed: e.target.checked || undefined })}
                  >
                    Compute it here: <code>{c.clause}</code>
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

function RangeField({ range, onSay }: { range: string; onSay: (range: string) => void }) {
  const [text, setText] = useState(range);
  const fits = box(text) !== undefined;
  const done = () => fits && text !== range && onSay(text.trim().toUpperCase());
  return (
    <label>
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
    </label>
  );
}
