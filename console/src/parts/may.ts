// What the person at the console may do. The service asks of every request anyhow; here
// it is asked so that nothing is offered that would be refused.
import { useSession, useTrackers } from "./queries";
import type { Column, Tab, Tracker } from "../api/client";

export type May = { edit: boolean; keep: boolean };

export function mayOf(role: string | undefined): May {
  return { edit: role === "editor" || role === "admin", keep: role === "admin" };
}

// useMay says what one may do in a tracker, by its id or name; without one, in the
// workspace. Until it is known, nothing.
export function useMay(tracker?: string): May {
  const session = useSession();
  const trackers = useTrackers();
  if (tracker === undefined) return mayOf(session.data?.person.access);
  return mayOf(trackers.data?.find((t) => t.id === tracker || t.name === tracker)?.role);
}

// mayAdd says whether one may add rows to a tab.
export function mayAdd(tracker: Tracker, tab: Tab): boolean {
  return mayOf(tracker.role).edit && !tab.read_only;
}

// isFixed says whether a column's cells are not to be typed into.
export function isFixed(column: Column): boolean {
  return Boolean(column.clause) || Boolean(column.read_only);
}

// columnsFor gives a tab's columns as one may change them there: none where its rows are
// not one's to change.
export function columnsFor(tab: Tab): Column[] {
  return tab.read_only ? tab.columns.map((c) => ({ ...c, read_only: true })) : tab.columns;
}

// mayImport says whether there is any tracker that one may take a file into, or make.
export function mayImport(access: string, trackers: Tracker[] | undefined): boolean {
  return mayOf(access).keep || (trackers ?? []).some((t) => mayOf(t.role).edit);
}
