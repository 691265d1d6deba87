// Cells and what they are set to: a column, and a text in which {braces} hold clauses.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { AutoComplete, Button, Select } from "antd";
import type { Column, Person } from "../api/client";
import { named } from "./condition";
import { optionsOf } from "./ValueField";
import { TakeOff } from "./TakeOff";

type Props = {
  columns: Column[]; // that may be set
  from: Column[]; // whose values may be taken over
  people: Person[];
  label: string;
  value: Record<string, unknown>;
  onChange: (cells: Record<string, unknown>) => void;
};

export function CellsField({ columns, from, people, label, value, onChange }: Props) {
  const entries = Object.entries(value);
  const free = columns.filter((c) => !c.clause && !(c.name in value));
  const put = (i: number, name: string, to: unknown) =>
    onChange(Object.fromEntries(entries.map(([k, v], n) => (n === i ? [name, to] : [k, v]))));
  return (
    <div role="group" aria-label={label} className="cells-field">
      {entries.map(([name, to], i) => {
        const column = columns.find((c) => c.name === name);
        return (
          <div key={name} className="inline-fields">
            <Trans>
              <Select
                showSearch={{ optionFilterProp: "label" }}
                aria-label={t`Column to set`}
                value={name}
                options={[...(column ? [column] : []), ...free].map((c) => ({ value: c.name, label: c.name }))}
                onChange={(other: string) => put(i, other, "")}
                popupMatchSelectWidth={false}
              />
              to
              <AutoComplete
                aria-label={t`What ${name} is set to`}
                value={typeof to === "string" || typeof to === "number" ? String(to) : ""}
                placeholder={t`blank`}
                options={offers(column, from, people)}
                onChange={(text: string) => put(i, name, text)}
                style={{ minWidth: 200 }}
              />
              <TakeOff
                label={t`Do not set ${name}`}
                onClick={() => onChange(Object.fromEntries(entries.filter((_, n) => n !== i)))}
              />
            </Trans>
          </div>
        );
      })}
      <Button
        type="link"
        size="small"
        disabled={free.length === 0}
        onClick={() => free[0] && onChange({ ...value, [free[0].name]: "" })}
      >
        {t`Set another cell`}
      </Button>
    </div>
  );
}

// offers gives what a cell is often set to.
function offers(column: Column | undefined, from: Column[], people: Person[]) {
  const own = optionsOf(column, people).map((o) => ({ value: o.value, label: o.label }));
  const days =
    column?.type === "date"
      ? [
          { value: "{today}", label: t`today` },
          { value: "{today + 7 days}", label: t`in 7 days` },
        ]
      : column?.type === "date-time"
        ? [{ value: "{now}", label: t`now` }]
        : [];
  const ticks =
    column?.type === "checkbox"
      ? [
          { value: "yes", label: t`ticked` },
          { value: "no", label: t`not ticked` },
        ]
      : [];
  const others = from
    .filter((c) => c.type === column?.type || column?.type === "text")
    .map((c) => ({ value: `{${named(c.name)}}`, label: t`the row's ${c.name}` }));
  return [...own, ...days, ...ticks, ...others];
}
