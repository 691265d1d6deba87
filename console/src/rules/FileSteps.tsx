// Steps about files: rows imported from one, rows written into one.
import { Checkbox, Input, Select } from "antd";
import type { Definition, Tracker } from "../api/client";
import { ColumnsField } from "../automation/ColumnsField";
import { KeyedTabField } from "../automation/KeyedTabField";
import { TabField } from "../automation/TabField";
import { TextField } from "../automation/TextField";
import { PlacePicker } from "./PlacePicker";
import { fields, text, texts, yes, type Cells } from "./body";

type Props = { tracker: Tracker; of: Cells; put: (more: Cells) => void };

const gone = [
  { value: "", label: "stay as they are" },
  { value: "remove", label: "are deleted" },
];

export function TakeFields({ tracker, of, put }: Props) {
  const marked = typeof of.gone === "object";
  return (
    <div className="rule-parts">
      <KeyedTabField
        tracker={tracker}
        word="into"
        label="Into which tab"
        by="matched by"
        byLabel="Matched by"
        tab={text(of.tab)}
        column={text(of.key)}
        onChange={(tab, key) => put({ tab, key })}
      />
      <TextField
        word="from sheet"
        label="Sheet of the workbook"
        placeholder="the one that fits best"
        value={text(of.sheet)}
        width={180}
        onChange={(to) => put({ sheet: to })}
      />
      <span className="inline-fields">
        Rows missing from the file
        <Select
          aria-label="Rows missing from the file"
          value={marked ? "mark" : text(of.gone) === "keep" ? "" : text(of.gone)}
          options={marked ? [...gone, { value: "mark", label: "are marked, as the text form says" }] : gone}
          onChange={(v: string) => v !== "mark" && put({ gone: v })}
          popupMatchSelectWidth={false}
        />
      </span>
    </div>
  );
}

type WriteProps = Props & { byRows: boolean; reminders: Definition[] };

export function WriteFields({ tracker, of, put, byRows, reminders }: WriteProps) {
  const tab = tracker.tabs.find((t) => t.name === text(of.tab));
  const columns = (tab?.columns ?? []).map((c) => c.name);
  const chart = fields(of.chart);
  const source = of.reminder !== undefined ? "reminder" : "tab";
  return (
    <div className="rule-parts">
      <span className="inline-fields">
        with the rows of
        <Select
          aria-label="Rows of"
          value={source}
          options={[
            { value: "tab", label: "tab" },
            { value: "reminder", label: "reminder" },
          ]}
          onChange={(to) =>
            put(
              to === "tab"
                ? { reminder: undefined, tab: tracker.tabs[0]?.name ?? "" }
                : { tab: undefined, columns: undefined, reminder: reminders[0]?.name ?? "" },
            )
          }
          popupMatchSelectWidth={false}
        />
        {source === "tab" ? (
          <TabField
            tracker={tracker}
            value={text(of.tab)}
            onChange={(name) => put({ tab: name, columns: undefined })}
          />
        ) : (
          <Select
            aria-label="Reminder"
            value={text(of.reminder)}
            options={reminders.map((r) => ({ value: r.name, label: r.name }))}
            onChange={(reminder: string) => put({ reminder })}
            popupMatchSelectWidth={false}
          />
        )}
      </span>
      <TextField
        word="to"
        label="Name of the file"
        value={text(of.file)}
        placeholder="outbound/rows {today}.xlsx"
        width={260}
        onChange={(to) => put({ file: to })}
      />
      {source === "tab" && (
        <span className="inline-fields">
          columns
          <ColumnsField
            label="Columns of the file"
            columns={columns}
            placeholder="all columns"
            value={texts(of.columns)}
            onChange={(names) => put({ columns: names })}
          />
        </span>
      )}
      <TextField
        word="sorted by"
        label="Sorted by"
        placeholder="Due, Value descending"
        value={text(of.order)}
        width={200}
        onChange={(to) => put({ order: to })}
      />
      <span className="inline-fields">
        in sheet
        <Input
          aria-label="Sheet"
          placeholder="a sheet of its own"
          value={text(of.sheet)}
          onChange={(e) => put({ sheet: e.target.value })}
          style={{ width: 150 }}
        />
        from cell
        <Input
          aria-label="First cell"
          placeholder="A1"
          value={text(of.at)}
          onChange={(e) => put({ at: e.target.value.toUpperCase() })}
          style={{ width: 70 }}
        />
        <PlacePicker tracker={tracker.id} onPick={put} />
      </span>
      <TextField
        word="made from template"
        label="Template"
        placeholder="none"
        value={text(of.from)}
        width={160}
        onChange={(to) => put({ from: to })}
      />
      <TextField
        word="kept for"
        label="How long the file is kept"
        placeholder="ever"
        value={text(of.keep)}
        width={100}
        onChange={(to) => put({ keep: to })}
      />
      {byRows && source === "tab" && (
        <Checkbox checked={text(of.rows) === "matched"} onChange={(e) => put({ rows: e.target.checked && "matched" })}>
          Only the rows that match
        </Checkbox>
      )}
      <Checkbox checked={yes(of.totals)} onChange={(e) => put({ totals: e.target.checked && "yes" })}>
        A row of totals
      </Checkbox>
      <Checkbox checked={yes(of.append)} onChange={(e) => put({ append: e.target.checked && "yes" })}>
        Add below the rows that the file has
      </Checkbox>
      <Checkbox checked={text(of.empty) === "skip"} onChange={(e) => put({ empty: e.target.checked && "skip" })}>
        No file where there are no rows
      </Checkbox>
      {source === "tab" && (
        <span className="inline-fields">
          with a chart of
          <Select
            aria-label="Chart of"
            allowClear
            placeholder="nothing"
            value={text(chart.values) || undefined}
            options={(tab?.columns ?? [])
              .filter((c) => c.type === "number")
              .map((c) => ({ value: c.name, label: c.name }))}
            onChange={(values?: string) =>
              put({ chart: values ? { ...chart, names: text(chart.names) || columns[0], values } : undefined })
            }
            popupMatchSelectWidth={false}
          />
          {text(chart.values) !== "" && (
            <>
              by
              <Select
                aria-label="Chart by"
                value={text(chart.names)}
                options={columns.map((c) => ({ value: c, label: c }))}
                onChange={(names: string) => put({ chart: { ...chart, names } })}
                popupMatchSelectWidth={false}
              />
            </>
          )}
        </span>
      )}
    </div>
  );
}
