// One cell at rest: plain spans, so that thousands can be drawn.
import { t } from "@lingui/core/macro";
import { memo, useContext } from "react";
import type { Column, Row } from "../api/client";
import { Chip } from "../parts/Chip";
import { Writing } from "../parts/writing";
import { address } from "../parts/text";
import { shown } from "./format";

export const CellText = memo(function CellText({
  row,
  column,
  names,
  pending,
}: {
  row: Row;
  column: Column;
  names: Map<string, string>;
  pending?: string;
}) {
  const forms = useContext(Writing);
  if (pending !== undefined) return <span className="cell-pending">{pending}</span>;
  const v = row.cells[column.name];
  if (row.odd?.includes(column.name)) {
    return (
      <span className="cell-odd" title={t`Odd cell: ${row.odd_why?.[column.name] ?? t`not a ${column.type}`}`}>
        ? {String(v)}
      </span>
    );
  }
  if (v === null || v === undefined || v === "") return null;
  switch (column.type) {
    case "checkbox":
      return <span aria-label={v === true ? t`yes` : t`no`}>{v === true ? "✓" : "–"}</span>;
    case "choice":
      return (Array.isArray(v) ? v : [v]).map((name) => (
        <Chip key={String(name)} name={String(name)} colour={column.options?.find((o) => o.name === name)?.colour} />
      ));
    case "link": {
      const { to, label } = address(String(v));
      return /^(https?|mailto):/.test(to) ? (
        <a href={to} target="_blank" rel="noreferrer" tabIndex={-1}>
          {label}
        </a>
      ) : (
        label
      );
    }
    case "file": {
      const { to, label } = address(String(v));
      return to.startsWith("/api/v1/attachments/") ? (
        <a href={to} download={label} tabIndex={-1}>
          {label}
        </a>
      ) : (
        label
      );
    }
  }
  return shown(v, column, names, forms);
});
