// Figures: each a name and what it is, which the caller draws.
import { t } from "@lingui/core/macro";
import { Button, Select } from "antd";
import type { ReactNode } from "react";
import { freeName, NameField } from "./NameField";
import { TakeOff } from "./TakeOff";

type Props = {
  value: [string, unknown][];
  names?: string[]; // that a figure may have; any, unless given
  word: string; // between the name and what it is
  fresh: string; // what a figure that is added is at first
  onChange: (all: [string, unknown][]) => void;
  children: (written: unknown, set: (to: unknown) => void, i: number) => ReactNode;
};

export function FiguresField({ value, names, word, fresh, onChange, children }: Props) {
  const put = (i: number, name: string, written: unknown) =>
    onChange(value.map((f, k) => (k === i ? [name, written] : f)));
  const all = value.map(([name]) => name);
  const others = (i: number) => all.filter((_, k) => k !== i);
  const free = names?.find((n) => !value.some(([v]) => v === n)) ?? "";
  return (
    <div className="cells-field" role="group" aria-label={t`Figures`}>
      {value.map(([name, written], i) => (
        <div className="inline-fields" key={i}>
          {names ? (
            <Select
              aria-label={t`Name of figure ${i + 1}`}
              value={name}
              options={names.filter((n) => !others(i).includes(n)).map((n) => ({ value: n, label: n }))}
              onChange={(to: string) => put(i, to, written)}
              popupMatchSelectWidth={false}
            />
          ) : (
            <NameField
              label={t`Name of figure ${i + 1}`}
              value={name}
              taken={others(i)}
              onChange={(to) => put(i, to, written)}
            />
          )}
          {word}
          {children(written, (to) => put(i, name, to), i)}
          <TakeOff label={t`Delete figure ${name}`} onClick={() => onChange(value.filter((_, k) => k !== i))} />
        </div>
      ))}
      <Button
        type="link"
        size="small"
        disabled={names !== undefined && free === ""}
        onClick={() => onChange([...value, [names ? free : freeName((n) => t`Figure ${n}`, all), fresh]])}
      >
        {t`Add figure`}
      </Button>
    </div>
  );
}
