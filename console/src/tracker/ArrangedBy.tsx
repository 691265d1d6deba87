// What a tab's rows are chosen and sorted by, each to be taken off again.
import { plural, t } from "@lingui/core/macro";
import { Button } from "antd";
import { useContext } from "react";
import type { Column } from "../api/client";
import { TakeOff } from "../automation/TakeOff";
import { Writing } from "../parts/writing";
import { pickText, plain, type Arrangement } from "./arrangement";

type Props = {
  arrangement: Arrangement;
  columns: Column[]; // all of the tab
  names: Map<string, string>;
  onArrange: (part: Partial<Arrangement>) => void;
};

export function ArrangedBy({ arrangement: a, columns, names, onArrange }: Props) {
  const forms = useContext(Writing);
  const hidden = a.columns.length === 0 ? 0 : columns.length - a.columns.length;
  const chips: { key: string; text: string; off: Partial<Arrangement> }[] = [];
  if (a.words.trim() !== "") chips.push({ key: "words", text: t`contains “${a.words.trim()}”`, off: { words: "" } });
  for (const [name, values] of Object.entries(a.picks)) {
    const column = columns.find((c) => c.name === name);
    if (!column) continue;
    const few = values.slice(0, 3).map((v) => pickText(v, column, names, forms));
    const text = few.join(", ") + (values.length > 3 ? t` and ${values.length - 3} more` : "");
    const picks = Object.fromEntries(Object.entries(a.picks).filter(([n]) => n !== name));
    chips.push({ key: "pick " + name, text: `${name}: ${text}`, off: { picks } });
  }
  if (a.where !== "") chips.push({ key: "where", text: a.where, off: { where: "" } });
  for (const by of a.order)
    chips.push({
      key: "by " + by.column,
      text: by.down ? t`sorted by ${by.column}, descending` : t`sorted by ${by.column}`,
      off: { order: a.order.filter((o) => o !== by) },
    });
  if (hidden > 0)
    chips.push({
      key: "columns",
      text: plural(hidden, { one: "# column hidden", other: "# columns hidden" }),
      off: { columns: [] },
    });
  if (chips.length === 0) return null;
  return (
    <div role="group" aria-label={t`Filters and order`} className="arranged-by">
      {chips.map(({ key, text, off }) => (
        <span key={key} className={key === "where" ? "arranged-chip clause-tag" : "arranged-chip"}>
          <span className="arranged-text" title={text}>
            {text}
          </span>
          <TakeOff label={t`Remove: ${text}`} onClick={() => onArrange(off)} />
        </span>
      ))}
      {chips.length > 1 && (
        <Button
          size="small"
          type="link"
          onClick={() => onArrange({ ...plain, widths: a.widths, frozen: a.frozen })}
        >{t`Show all rows and columns`}</Button>
      )}
    </div>
  );
}
