// A field of a form for a value of a column. Forms give it value and onChange.
import { t } from "@lingui/core/macro";
import { AutoComplete, Checkbox, Input, Select } from "antd";
import { use } from "react";
import type { Column, Person } from "../api/client";
import { FileField, KeepFileContext } from "./FileField";

type Props = {
  column: Column;
  people: Person[];
  choices?: string[]; // values that another tab has, of which one is to be taken
  value?: unknown;
  onChange?: (value: unknown) => void;
  id?: string;
};

export function ColumnField({ column: c, people, choices, value, onChange, id }: Props) {
  const common = { id, "aria-label": c.name };
  const files = use(KeepFileContext);
  if (choices) {
    return (
      <AutoComplete
        {...common}
        allowClear
        value={value as string | undefined}
        onChange={onChange}
        options={choices.map((name) => ({ value: name }))}
        showSearch={{ filterOption: (typed, o) => String(o?.value).toLowerCase().includes(typed.toLowerCase()) }}
      />
    );
  }
  switch (c.type) {
    case "file":
      if (!files) break;
      return <FileField column={c} id={id} value={value as string | undefined} onChange={onChange} />;
    case "checkbox":
      return <Checkbox {...common} checked={value === true} onChange={(e) => onChange?.(e.target.checked)} />;
    case "choice":
      return (
        <Select
          showSearch={{ optionFilterProp: "label" }}
          {...common}
          allowClear
          value={value as string | undefined}
          onChange={onChange}
          mode={c.several ? "multiple" : undefined}
          options={c.options?.map((o) => ({ value: o.name, label: o.name }))}
        />
      );
    case "person":
      return (
        <Select
          {...common}
          allowClear
          showSearch={{ optionFilterProp: "label" }}
          value={value as string | undefined}
          onChange={onChange}
          mode={c.several ? "multiple" : undefined}
          options={people.map((p) => ({ value: p.address, label: p.name }))}
        />
      );
  }
  const text = {
    ...common,
    value: value as string | undefined,
    onChange: (e: { target: { value: string } }) => onChange?.(e.target.value),
  };
  if (c.type === "text") return <Input.TextArea {...text} autoSize={{ minRows: 1, maxRows: 6 }} />;
  return <Input {...text} placeholder={c.type === "date" ? t`such as 2026-03-31` : undefined} />;
}
