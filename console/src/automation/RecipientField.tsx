// Who is told: people by name, those that a column names, or everybody of a role.
import { t } from "@lingui/core/macro";
import { Select } from "antd";
import type { Person } from "../api/client";
import { named } from "./condition";

export function RecipientField({
  label,
  word = "to",
  columns,
  people,
  value,
  onChange,
}: {
  label: string;
  word?: string;
  columns: { name: string; type: string }[];
  people: Person[];
  value: string[];
  onChange: (to: string[]) => void;
}) {
  const options = [
    ...columns
      .filter((c) => c.type === "person")
      .map((c) => ({ value: `{${named(c.name)}}`, label: t`the ${c.name} of the row` })),
    ...people.map((p) => ({ value: p.address, label: p.name })),
    { value: "editors", label: t`all editors` },
    { value: "admins", label: t`all admins` },
  ];
  // whoever types the name of a choice, rather than picking it, means the choice
  const meant = (typed: string) =>
    options.find((o) => o.label.toLowerCase() === typed.trim().toLowerCase())?.value ?? typed;
  return (
    <span className="inline-fields">
      {word}
      <Select
        showSearch={{ optionFilterProp: "label" }}
        mode="tags"
        aria-label={label}
        value={value}
        placeholder={t`people, or an address`}
        options={options}
        onChange={(to) => onChange(to.map(meant))}
        style={{ minWidth: 240 }}
        popupMatchSelectWidth={false}
      />
    </span>
  );
}
