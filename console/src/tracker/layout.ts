// How the columns of the grid are laid out, and which place of it something stands at.
import type { CSSProperties } from "react";
import type { Column } from "../api/client";
import { isNumeric, widthOf } from "./format";
import type { Place } from "./selection";

export type Layout = {
  columns: Column[];
  widths: number[];
  lefts: number[]; // of the columns, and of what comes after the last
  frozen: number;
  total: number;
  cells: { className: string; style: CSSProperties }[]; // what all cells of a column have alike
};

export const leftOf = (layout: Layout, col: number): number => layout.lefts[col] ?? layout.total;

/** gapBefore gives how much room of columns that are not drawn there is before the first that is. */
export const gapBefore = (layout: Layout, first: number): number =>
  first > layout.frozen ? leftOf(layout, first) - leftOf(layout, layout.frozen) : 0;

/** layOut lays columns out: their own widths where these were changed, and as many frozen as is said. */
export function layOut(
  columns: Column[],
  label: string,
  changed: Record<string, number> = {},
  frozen?: number,
): Layout {
  const widths = columns.map((c) => changed[c.name] ?? widthOf(c, label));
  const labelAt = columns.findIndex((c) => c.name === label);
  const stay = Math.min(frozen ?? (labelAt === 1 ? 2 : 1), columns.length);
  const lefts = [0];
  const cells = columns.map((c, col) => {
    const width = widths[col] ?? 0;
    const left = lefts[col] ?? 0;
    lefts.push(left + width);
    const style = { width, ...(col < stay ? { "--left": `${left}px` } : {}) };
    const classes = ["cell", isNumeric(c) && "cell-number", c.clause && "cell-computed", col < stay && "cell-frozen"];
    return { className: classes.filter(Boolean).join(" "), style };
  });
  return { columns, widths, lefts, frozen: stay, total: lefts.at(-1) ?? 0, cells };
}

/** cellSelector finds the cell at a place. */
export const cellSelector = ({ row, col }: Place) => `[data-row="${row}"] > [data-col="${col}"]`;

export function placeOf(target: EventTarget): Place | undefined {
  const cell = (target as HTMLElement).closest<HTMLElement>("[data-col]");
  const row = cell?.closest<HTMLElement>("[data-row]");
  return cell && row ? { row: Number(row.dataset.row), col: Number(cell.dataset.col) } : undefined;
}

export function scrollToColumn(el: HTMLElement | null, layout: Layout, col: number) {
  if (!el || col < layout.frozen) return;
  const left = leftOf(layout, col);
  const right = left + (layout.widths[col] ?? 0);
  const frozen = leftOf(layout, layout.frozen);
  if (left - frozen < el.scrollLeft) el.scrollLeft = left - frozen;
  else if (right > el.scrollLeft + el.clientWidth) el.scrollLeft = right - el.clientWidth;
}

// headOf gives the column whose name is at a place of the page.
export function headOf(target: EventTarget): number | undefined {
  const head = (target as HTMLElement).closest<HTMLElement>("[data-head]");
  return head ? Number(head.dataset.head) : undefined;
}

// followLink opens the link that a cell shows.
export function followLink(grid: HTMLElement | null, place: Place) {
  grid?.querySelector<HTMLAnchorElement>(`${cellSelector(place)} a`)?.click();
}

/** widestOf gives how wide a column must be for its name and what of it is in sight. */
export function widestOf(grid: HTMLElement | null, col: number): number {
  let most = 0;
  for (const el of grid?.querySelectorAll(`[data-col="${col}"], [data-head="${col}"] .head-name`) ?? []) {
    const text = document.createRange();
    text.selectNodeContents(el);
    most = Math.max(most, text.getBoundingClientRect().width + (el.matches("[data-col]") ? 18 : 44));
  }
  return Math.ceil(most);
}
