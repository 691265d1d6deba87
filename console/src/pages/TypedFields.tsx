// Fields of a page's own, or of its log: each a name and a type.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Select } from "antd";
import { freeName, NameField } from "../automation/NameField";
import { TakeOff } from "../automation/TakeOff";
import type { Cells } from "../rules/body";
import { typeOf, withType } from "./pattern";

const types = ["text", "number", "date", "date-time", "checkbox", "choice", "person", "link", "file"];

export function TypedFields({
  label,
  add,
  value,
  onChange,
}: {
  label: string;
  add: string;
  value: Cells;
  onChange: (to: Cells) => void;
}) {
  const all = Object.entries(value);
  const names = Object.keys(value);
  return (
    <div className="cells-field" role="group" aria-label={label}>
      {all.map(([name, how], i) => (
        <div className="inline-fields" key={i}>
          <Trans>
            <NameField
              label={t`${label}: name ${i + 1}`}
              value={name}
              taken={names.filter((_, k) => k !== i)}
              onChange={(to) => onChange(Object.fromEntries(all.map(([n, h], k) => (k === i ? [to, h] : [n, h]))))}
            />
            is a
            <Select
              aria-label={t`${label}: type ${i + 1}`}
              value={typeOf(how)}
              options={types.map((one) => ({ value: one, label: one }))}
              onChange={(type: string) =>
                onChange(Object.fromEntries(all.map(([n, h], k) => (k === i ? [n, withType(h, type)] : [n, h]))))
              }
              popupMatchSelectWidth={false}
            />
            <TakeOff
              label={t`Delete ${name}`}
              onClick={() => onChange(Object.fromEntries(all.filter((_, k) => k !== i)))}
            />
          </Trans>
        </div>
      ))}
      <Button
        type="link"
        size="small"
        onClick={() => onChange({ ...value, [freeName((n) => t`Field ${n}`, names)]: { type: "text" } })}
      >
        {add}
      </Button>
    </div>
  );
}
