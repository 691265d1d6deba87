// A sheet as it stands in the file, with the tables found in it: their headers,
// their rows, what was left out and why, and cells that do not fit.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMemo, useState } from "react";
import type { ReadSheet } from "../api/client";
import { box, columnName, holds } from "./corrections";

type Props = {
  sheet: ReadSheet;
  picked?: string; // a cell, marked
  onPick?: (cell: string) => void; // a cell may be chosen
};

export function Picture({ sheet, picked, onPick }: Props) {
  const marks = useMemo(() => markers(sheet), [sheet]);
  const [stop, setStop] = useState(picked ?? "A1"); // the cell at which Tab comes to the picture
  const width = Math.max(1, ...sheet.cells.map((row) => row.length));
  const columns = Array.from({ length: width }, (_, c) => c);
  return (
    <div className="picture" role="region" aria-label={t`The sheet ${sheet.name}`} tabIndex={0}>
      <table>
        <thead>
          <tr>
            <th scope="col">
              <span className="hidden-words">
                <Trans>Row</Trans>
              </span>
            </th>
            {columns.map((c) => (
              <th key={c} scope="col">
                {columnName(c)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sheet.cells.map((row, r) => (
            <tr key={r}>
              <th scope="row">{r + 1}</th>
              {columns.map((c) => {
                const mark = marks(r, c);
                const name = `${columnName(c)}${r + 1}`;
                return (
                  <td key={c} className={onPick && picked === name ? "picked" : mark.kind} title={mark.says}>
                    {onPick ? (
                      <button
                        type="button"
                        aria-label={t`Cell ${name}`}
                        aria-pressed={picked === name}
                        tabIndex={name === stop ? 0 : -1}
                        onFocus={() => setStop(name)}
                        onKeyDown={(e) => goOn(e, r, c)}
                        onClick={() => onPick(name)}
                      >
                        {row[c] ?? ""}
                      </button>
                    ) : (
                      (row[c] ?? "")
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {sheet.rows > sheet.cells.length && (
        <p className="quiet">
          <Trans>
            The first {sheet.cells.length} of {sheet.rows} rows are shown.
          </Trans>
        </p>
      )}
    </div>
  );
}

// goOn goes from a cell to the one beside it with the arrows: the picture is one stop of Tab.
function goOn(e: React.KeyboardEvent<HTMLElement>, row: number, column: number) {
  const steps: Record<string, [rows: number, columns: number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
  };
  const [down, across] = steps[e.key] ?? [];
  if (down === undefined || across === undefined) return;
  e.preventDefault();
  const body = e.currentTarget.closest("tbody");
  body?.rows[row + down]?.querySelectorAll<HTMLElement>("td button")[column + across]?.focus();
}

type Mark = { kind?: string; says?: string };

function markers(sheet: ReadSheet): (row: number, column: number) => Mark {
  const tables = sheet.tables.map((one) => {
    const at = box(one.range);
    return {
      at,
      body: at ? at.top + one.header_rows : 0,
      odd: new Map(one.columns.flatMap((c) => c.odd.map((o) => [o.cell, c]))),
    };
  });
  const out = [...sheet.left_out, ...sheet.tables.flatMap((one) => one.left_out)].map((l) => ({
    at: box(l.range),
    why: l.reason,
  }));
  return (row, column) => {
    const left = out.find((l) => holds(l.at, row, column));
    if (left) return { kind: "left-out", says: t`left out: ${left.why}` };
    const table = tables.find((one) => holds(one.at, row, column));
    if (!table) return {};
    if (row < table.body) return { kind: "header", says: t`the header` };
    const odd = table.odd.get(`${columnName(column)}${row + 1}`);
    if (odd) return { kind: "odd", says: t`does not fit ${odd.type}: kept as an odd cell` };
    return { kind: "row" };
  };
}
