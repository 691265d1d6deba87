// Steps about files: rows imported from one, rows written into one.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
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
  { value: "", label: t`stay as they are` },
  { value: "remove", label: t`are deleted` },
];

export function TakeFields({ tracker, of, put }: Props) {
  const marked = typeof of.gone === "object";
  return (
    <div className="rule-parts">
      <KeyedTabField
        tracker={tracker}
        word={t`into`}
        label={t`Into which tab`}
        by="matched by"
        byLabel={t`Matched by`}
        tab={text(of.tab)}
        column={text(of.key)}
        onChange={(tab, key) => put({ tab, key })}
      />
      <TextField
        word={t`from sheet`}
        label={t`Sheet of the workbook`}
        placeholder={t`the one that fits best`}
        value={text(of.sheet)}
        width={180}
        onChange={(to) => put({ sheet: to })}
      />
      <span className="inline-fields">
        <Trans>
          Rows missing from the file
          <Select
            aria-label={t`Rows missing from the file`}
            value={marked ? "mark" : text(of.gone) === "keep" ? "" : text(of.gone)}
            options={marked ? [...gone, { value: "mark", label: t`are marked, as the text form says` }] : gone}
            onChange={(v: string) => v !== "mark" && put({ gone: v })}
            popupMatchSelectWidth={false}
          />
        </Trans>
      </span>
    </div>
  );
}

type WriteProps = Props & { byRows: boolean; reminders: Definition[] };

export function WriteFields({ tracker, of, put, byRows, reminders }: WriteProps) {
  const tab = tracker.tabs.find((one) => one.name === text(of.tab));
  const columns = (tab?.columns ?? []).map((c) => c.name);
  const chart = fields(of.chart);
  const source = of.reminder !== undefined ? "reminder" : "tab";
  return (
    <div className="rule-parts">
      <span className="inline-fields">
        <Trans>
          with the rows of
          <Select
            aria-label={t`Rows of`}
            value={source}
            options={[
              { value: "tab", label: t`tab` },
              { value: "reminder", label: t`reminder` },
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
        </Trans>
        {source === "tab" ? (
          <TabField
            tracker={tracker}
            value={text(of.tab)}
            onChange={(name) => put({ tab: name, columns: undefined })}
          />
        ) : (
          <Select
            aria-label={t`Reminder`}
            value={text(of.reminder)}
            options={reminders.map((r) => ({ value: r.name, label: r.name }))}
            onChange={(reminder: string) => put({ reminder })}
            popupMatchSelectWidth={false}
          />
        )}
      </span>
      <TextField
        word={t`to`}
        label={t`Name of the file`}
        value={text(of.file)}
        placeholder="outbound/rows {today}.xlsx"
        width={260}
        onChange={(to) => put({ file: to })}
      />
      {source === "tab" && (
        <span className="inline-fields">
          <Trans>
            columns
            <ColumnsField
              label={t`Columns of the file`}
              columns={columns}
              placeholder={t`all columns`}
              value={texts(of.columns)}
              onChange={(names) => put({ columns: names })}
            />
          </Trans>
        </span>
      )}
      <TextField
        word={t`sorted by`}
        label={t`Sorted by`}
        placeholder={t`Due, Value descending`}
        value={text(of.order)}
        width={200}
        onChange={(to) => put({ order: to })}
      />
      <span className="inline-fields">
        <Trans>
          in sheet
          <Input
            aria-label={t`Sheet`}
            placeholder={t`a sheet of its own`}
            value={text(of.sheet)}
            onChange={(e) => put({ sheet: e.target.value })}
            style={{ width: 150 }}
          />
          from cell
          <Input
            aria-label={t`First cell`}
            placeholder={t`A1`}
            value={text(of.at)}
            onChange={(e) => put({ at: e.target.value.toUpperCase() })}
            style={{ width: 70 }}
          />
          <PlacePicker tracker={tracker.id} onPick={put} />
        </Trans>
      </span>
      <TextField
        word={t`made from template`}
        label={t`Template`}
        placeholder={t`none`}
        value={text(of.from)}
        width={160}
        onChange={(to) => put({ from: to })}
      />
      <TextField
        word={t`kept for`}
        label={t`How long the file is kept`}
        placeholder={t`ever`}
        value={text(of.keep)}
        width={100}
        onChange={(to) => put({ keep: to })}
      />
      {byRows && source === "tab" && (
        <Checkbox checked={text(of.rows) === "matched"} onChange={(e) => put({ rows: e.target.checked && "matched" })}>
          <Trans>Only the rows that match</Trans>
        </Checkbox>
      )}
      <Checkbox checked={yes(of.totals)} onChange={(e) => put({ totals: e.target.checked && "yes" })}>
        <Trans>A row of totals</Trans>
      </Checkbox>
      <Checkbox checked={yes(of.append)} onChange={(e) => put({ append: e.target.checked && "yes" })}>
        <Trans>Add below the rows that the file has</Trans>
      </Checkbox>
      <Checkbox checked={text(of.empty) === "skip"} onChange={(e) => put({ empty: e.target.checked && "skip" })}>
        <Trans>No file where there are no rows</Trans>
      </Checkbox>
      {source === "tab" && (
        <span className="inline-fields">
          <Trans>
            with a chart of
            <Select
              aria-label={t`Chart of`}
              allowClear
              placeholder={t`nothing`}
              value={text(chart.values) || undefined}
              options={(tab?.columns ?? [])
                .filter((c) => c.type === "number")
                .map((c) => ({ value: c.name, label: c.name }))}
              onChange={(values?: string) =>
                put({ chart: values ? { ...chart, names: text(chart.names) || columns[0], values } : undefined })
              }
              popupMatchSelectWidth={false}
            />
          </Trans>
          {text(chart.values) !== "" && (
            <>
              <Trans>
                by
                <Select
                  aria-label={t`Chart by`}
                  value={text(chart.names)}
                  options={columns.map((c) => ({ value: c, label: c }))}
                  onChange={(names: string) => put({ chart: { ...chart, names } })}
                  popupMatchSelectWidth={false}
                />
              </Trans>
            </>
          )}
        </span>
      )}
    </div>
  );
}
