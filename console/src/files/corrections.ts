// What a person says of the tables of a file, and how it is told to the service.
import type { Reading } from "../api/client";

export type ColumnSaid = {
  name?: string;
  type?: string;
  leave_out?: boolean;
  computed?: boolean;
  day_order?: "day first" | "month first";
};
export type TableSaid = {
  leave_out?: boolean;
  range?: string;
  header_rows?: number;
  tab?: string;
  key?: string;
  columns?: Record<number, ColumnSaid>; // by place, from 1
};

// Said is what is said of each table, by sheet and place.
export type Said = Record<string, TableSaid>;

export const tableKey = (sheet: number, table: number) => `${sheet}/${table}`;

// corrections gives what the service is told; nothing where nothing is said.
export function corrections(reading: Reading, said: Said): string | undefined {
  const out = reading.sheets.flatMap((sheet, s) =>
    sheet.tables.flatMap((_, t) => {
      const table = said[tableKey(s, t)];
      if (!table) return [];
      const columns = Object.entries(table.columns ?? {}).map(([column, c]) => ({ column: Number(column), ...c }));
      return [{ sheet: sheet.name, table: t + 1, ...table, columns }];
    }),
  );
  return out.length > 0 ? JSON.stringify(out) : undefined;
}

// columnName gives the letters of a column, from 0 on.
export function columnName(n: number): string {
  let name = "";
  for (let rest = n + 1; rest > 0; rest = Math.floor((rest - 1) / 26)) {
    name = String.fromCharCode(65 + ((rest - 1) % 26)) + name;
  }
  return name;
}

export type Box = { top: number; left: number; bottom: number; right: number };

// box reads a range in A1 form, zero-based; undefined where it is none.
export function box(range: string): Box | undefined {
  const m = /^([A-Z]{1,3})(\d+)(?::([A-Z]{1,3})(\d+))?$/.exec(range.trim().toUpperCase());
  if (!m) return undefined;
  const column = (letters: string) => [...letters].reduce((n, c) => n * 26 + c.charCodeAt(0) - 64, 0) - 1;
  const left = column(m[1] ?? "");
  const top = Number(m[2]) - 1;
  return { top, left, bottom: m[4] ? Number(m[4]) - 1 : top, right: m[3] ? column(m[3]) : left };
}

export const holds = (b: Box | undefined, row: number, column: number) =>
  b !== undefined && row >= b.top && row <= b.bottom && column >= b.left && column <= b.right;
