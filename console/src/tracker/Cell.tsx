// One cell at rest: plain spans, so that thousands can be drawn.
import { t } from "@lingui/core/macro";
import { useContext } from "react";
import type { Column, Row } from "../api/client";
import { Chip } from "../parts/Chip";
import { Writing, type Forms } from "../parts/writing";
import { address } from "../parts/text";
import { shown } from "./format";
import type { Typed } from "./rowStore";

/** cellContent gives what a cell shows. It is no component: a page of cells is drawn with each row. */
export function cellContent(
  row: Row,
  column: Column,
  names: Map<string, string>,
  forms: Forms,
  typed: Typed | undefined,
): React.ReactNode {
  if (typed) return <span className={typed.why ? undefined : "cell-pending"}>{typed.text}</span>;
  const v = row.cells[column.name];
  if (row.odd?.includes(column.name)) {
    return (
      <span className="cell-odd" title={t`Odd cell: ${row.odd_why?.[column.name] ?? t`does not fit ${column.name}`}`}>
        ? {String(v)}
      </span>
    );
  }
  if (v === null || v === undefined || v === "") return null;
  switch (column.type) {
    case "checkbox":
      return <span aria-label={v === true ? t`yes` : t`no`}>{v === true ? "✓" : "–"}</span>;
    case "choice":
      // by place, so that scrolling writes another word into a chip instead of making one
      return (Array.isArray(v) ? v : [v]).map((name, i) => (
        <Chip key={i} name={String(name)} colour={column.options?.find((o) => o.name === name)?.colour} />
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
}

/** CellText is what a cell shows, by itself on a page. */
export function CellText({ row, column, names }: { row: Row; column: Column; names: Map<string, string> }) {
  return cellContent(row, column, names, useContext(Writing), undefined);
}
