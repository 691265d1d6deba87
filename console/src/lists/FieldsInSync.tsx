// The fields of a list and the columns of a tab that are kept in sync, pair by pair. What is not
// in sync is named below: a field is paired by dragging it onto a column, or by pressing the one
// and then the other.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Select } from "antd";
import { useState, type DragEvent } from "react";
import type { ListSample } from "../api/client";
import { TakeOff } from "../automation/TakeOff";
import { TypedSelect } from "../automation/TypedSelect";
import { text, type Cells } from "../rules/body";
import "./lists.css";

type Props = {
  columns: string[]; // that may be in sync
  pairs: Cells; // by column, the field
  sample?: ListSample;
  used?: string; // the field by which records are known
  onChange: (pairs: Cells) => void;
};

export function FieldsInSync({ columns, pairs, sample, used, onChange }: Props) {
  const [held, setHeld] = useState<string>(); // the field that is dragged, or was pressed
  const [over, setOver] = useState<string>(); // the column under it
  const paired = Object.entries(pairs);
  const free = columns.filter((name) => !(name in pairs));
  const fields = sample?.fields ?? [];
  const left = fields.filter((f) => f.at !== used && !Object.values(pairs).includes(f.at));
  const at = fields.map((f) => ({ value: f.at, label: f.samples[0] ? `${f.at} (${f.samples[0]})` : f.at }));
  const pair = (column: string) => {
    if (held !== undefined) onChange({ ...pairs, [column]: held });
    setHeld(undefined);
    setOver(undefined);
  };
  const takes = (column: string) => ({
    "data-over": over === column ? "" : undefined,
    onDragOver: (e: DragEvent) => {
      if (held === undefined) return;
      e.preventDefault();
      setOver(column);
    },
    onDragLeave: () => setOver(undefined),
    onDrop: (e: DragEvent) => {
      e.preventDefault();
      pair(column);
    },
  });
  return (
    <div className="cells-field" role="group" aria-label={t`Fields`}>
      {paired.map(([name, field], i) => (
        <div key={name} className="inline-fields pair" {...takes(name)}>
          <Trans>
            <Select
              aria-label={t`Column`}
              value={name}
              options={[name, ...free].map((value) => ({ value, label: value }))}
              onChange={(to: string) =>
                onChange(Object.fromEntries(paired.map(([n, f], k) => (k === i ? [to, f] : [n, f]))))
              }
              popupMatchSelectWidth={false}
            />
            is
            <TypedSelect
              label={t`Field for ${name}`}
              value={text(field)}
              placeholder={t`a field of the list`}
              options={at}
              onChange={(to) => onChange({ ...pairs, [name]: to })}
            />
            <TakeOff
              label={t`Do not sync ${name}`}
              onClick={() => onChange(Object.fromEntries(paired.filter((_, k) => k !== i)))}
            />
          </Trans>
        </div>
      ))}
      <Button
        type="link"
        size="small"
        disabled={free.length === 0}
        onClick={() => free[0] && onChange({ ...pairs, [free[0]]: "" })}
      >
        {t`Add field`}
      </Button>
      {left.length > 0 && free.length > 0 && (
        <div className="unpaired">
          <div role="group" aria-label={t`Fields not in sync`}>
            <span className="quiet">{t`Fields not in sync`}</span>
            {left.map((f) => (
              <Button
                key={f.at}
                size="small"
                draggable
                className="pairable"
                type={held === f.at ? "primary" : "default"}
                aria-pressed={held === f.at}
                title={f.samples.join(", ")}
                onClick={() => setHeld(held === f.at ? undefined : f.at)}
                onDragStart={(e) => {
                  e.dataTransfer.effectAllowed = "link";
                  e.dataTransfer.setData("text/plain", f.at);
                  setHeld(f.at);
                }}
                onDragEnd={() => {
                  setHeld(undefined);
                  setOver(undefined);
                }}
              >
                {f.at}
              </Button>
            ))}
          </div>
          <div role="group" aria-label={t`Columns not in sync`}>
            <span className="quiet">{t`Columns not in sync`}</span>
            {free.map((name) => (
              <Button
                key={name}
                size="small"
                type="dashed"
                disabled={held === undefined}
                onClick={() => pair(name)}
                {...takes(name)}
              >
                {name}
              </Button>
            ))}
          </div>
          <span className="quiet">
            <Trans>Drag a field onto a column, or press both.</Trans>
          </span>
        </div>
      )}
    </div>
  );
}
