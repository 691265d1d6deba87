// Files that look like one that was imported before: their columns are those of a tab.
import type { Reading, Tab, Tracker } from "../api/client";
import { tableKey } from "./corrections";

export type Familiar = { tracker: Tracker; tab: Tab; table: string; sheet: string; shared: number; key?: string };

const alike = 0.7; // of the columns of the file that a tab must have

const fold = (name: string) => name.trim().toLowerCase();

/** keyOf gives the column by which rows of a tab are found again, if it says of one. */
export const keyOf = (tab: Tab): string | undefined =>
  tab.columns.find((c) => c.unique || c.automatic_number)?.name ?? (tab.label || undefined);

/** familiar gives the tab that a file's largest table looks like; undefined: it is like none. */
export function familiar(reading: Reading, trackers: Tracker[]): Familiar | undefined {
  let best: Familiar | undefined;
  reading.sheets.forEach((sheet, s) =>
    sheet.tables.forEach((table, t) => {
      const names = table.columns.map((c) => fold(c.name));
      for (const tracker of trackers) {
        for (const tab of tracker.tabs) {
          const has = new Set(tab.columns.map((c) => fold(c.name)));
          const shared = names.filter((n) => has.has(n)).length;
          if (names.length < 2 || shared / names.length < alike || shared <= (best?.shared ?? 0)) continue;
          const key = keyOf(tab);
          const there = table.columns.find((c) => key !== undefined && fold(c.name) === fold(key));
          best = { tracker, tab, table: tableKey(s, t), sheet: sheet.name, shared, key: there?.name };
        }
      }
    }),
  );
  return best;
}
