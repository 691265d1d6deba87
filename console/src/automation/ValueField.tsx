// A value to compare with, or to set, as fits its column: options of a choice, people, a
// number, a day; whatever else is written as a clause.
import { t } from "@lingui/core/macro";
import { AutoComplete, Input, InputNumber, Select } from "antd";
import type { Column, Person } from "../api/client";
import { listed, quote, unquote } from "./condition";
import { TypedSelect } from "./TypedSelect";

const someDays = ["today", "today + 7 days", "today - 7 days", "today - 30 days", "today + 10 workdays"];
const spans = ["7 days", "14 days", "30 days", "3 months", "10 workdays"];

type Props = {
  column?: Column;
  op: string;
  value: string; // as the clause has it
  people: Person[];
  onChange: (value: string) => void;
};

export function ValueField({ column, op, value, people, onChange }: Props) {
  const label = t`Value of ${column?.name ?? t`the column`}`;
  const options = optionsOf(column, people);
  if (op === "is one of") {
    const chosen = listed(value);
    if (value === "" || chosen)
      return (
        <Select
          showSearch={{ optionFilterProp: "label" }}
          mode={options.length > 0 ? "multiple" : "tags"}
          aria-label={label}
          value={chosen ?? []}
          options={options}
          onChange={(all: string[]) => onChange(all.length ? `(${all.map(quote).join(", ")})` : "")}
          style={{ minWidth: 180 }}
          popupMatchSelectWidth={false}
        />
      );
  }
  const text = unquote(value);
  if (options.length > 0 || value === "tab") {
    return (
      <TypedSelect
        label={label}
        value={value}
        placeholder={t`choose`}
        options={[
          ...options.map((o) => ({ value: quote(o.value), label: o.label })),
          { value: "tab", label: t`the name of the row's tab` },
        ]}
        typedAs={(typed) => ({ value: quote(typed), label: typed })}
        onChange={onChange}
      />
    );
  }
  if (column?.type === "number" && (value === "" || /^-?\d+(\.\d+)?$/.test(value))) {
    return (
      <InputNumber
        aria-label={label}
        value={value === "" ? null : Number(value)}
        onChange={(n) => onChange(n === null ? "" : String(n))}
      />
    );
  }
  if (column?.type === "date" || column?.type === "date-time") {
    return (
      <AutoComplete
        aria-label={label}
        value={value}
        options={(op === "within" ? spans : someDays).map((d) => ({ value: d }))}
        placeholder={op === "within" ? t`7 days` : t`today, or 2026-03-31`}
        onChange={onChange}
        style={{ minWidth: 160 }}
      />
    );
  }
  if (value === "" || text !== undefined) {
    return (
      <Input
        aria-label={label}
        value={text ?? ""}
        onChange={(e) => onChange(e.target.value === "" ? "" : quote(e.target.value))}
        style={{ width: 180 }}
      />
    );
  }
  return (
    <Input
      aria-label={label}
      className="clause"
      value={value}
      onChange={(e) => onChange(e.target.value)}
      style={{ width: 260 }}
    />
  );
}

/** optionsOf gives what a column's values are chosen from. */
export function optionsOf(column: Column | undefined, people: Person[]) {
  if (column?.type === "choice") return (column.options ?? []).map((o) => ({ value: o.name, label: o.name }));
  if (column?.type === "person") return people.map((p) => ({ value: p.address, label: p.name }));
  return [];
}
