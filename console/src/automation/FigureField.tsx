// What a figure is: a count, or a sum or the like of a column; more than that as a clause.
import { t } from "@lingui/core/macro";
import { Input, Select } from "antd";
import type { Column } from "../api/client";
import { readFigure, whats, whatSays, writeFigure, type What } from "../tallies/body";

type Props = {
  nth: number;
  written: string;
  columns: Column[];
  among?: readonly What[]; // that may be chosen
  onChange: (written: string) => void;
};

export function FigureField({ nth, written, columns, among = whats, onChange }: Props) {
  const f = readFigure(written, columns);
  if (!f) {
    return (
      <Input
        className="clause"
        aria-label={t`Clause of figure ${nth}`}
        value={written}
        onChange={(e) => onChange(e.target.value)}
        style={{ width: 320 }}
      />
    );
  }
  const usual = (columns.find((c) => c.type === "number") ?? columns[0])?.name ?? "";
  return (
    <>
      <Select
        aria-label={t`What figure ${nth} is`}
        value={f.what}
        options={among.map((w) => ({ value: w, label: whatSays[w] }))}
        onChange={(what: What) => onChange(writeFigure({ what, of: f.of || usual }))}
        popupMatchSelectWidth={false}
      />
      {f.what !== "count" && (
        <Select
          aria-label={t`Of what figure ${nth} is`}
          value={f.of || undefined}
          options={columns.map((c) => ({ value: c.name, label: c.name }))}
          onChange={(of: string) => onChange(writeFigure({ ...f, of }))}
          popupMatchSelectWidth={false}
        />
      )}
    </>
  );
}
