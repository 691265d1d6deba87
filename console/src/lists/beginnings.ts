// Ready beginnings for a list and for a sync, filled in for the tracker at hand.
import { t } from "@lingui/core/macro";
import type { Definition, ListSample, Tab, Tracker } from "../api/client";
import type { Beginning, Start } from "../automation/Beginnings";
import type { Body } from "../rules/body";
import { pairs, sources, sourceSays, type Source } from "./body";

const fetched: Record<Source, string> = {
  http: t`Records are fetched from an address, page by page, and may be written back.`,
  file: t`The file is read again each time, from the folder for lists or from a web address.`,
  tasks: t`Tasks are read, added, changed and ticked off.`,
  postgres: t`The rows of a table are read, and may be written back.`,
  sqlite: t`The rows of a table in a file are read, and may be written back.`,
};

/** listBeginnings gives a list for each place where records may be kept. */
export const listBeginnings = (): Beginning[] =>
  sources.map((source) => ({
    id: source,
    title: sourceSays[source].replace(/^./, (c) => c.toUpperCase()),
    says: fetched[source],
    body: { name: "", from: { [source]: "" } },
  }));

const mostOffered = 3; // lists

/** syncBeginnings gives ways to keep a tab in step with each list that no sync has it in step
 * with yet, and an empty one last. */
export function syncBeginnings(tracker: Tracker, lists: Definition[], syncs: Definition[]): Start[] {
  const free = lists.filter((list) => !syncs.some((s) => s.body.list === list.name));
  const offered = free.slice(0, mostOffered).flatMap((list) => {
    const tab = tabLike(tracker, list.name)?.name;
    if (tab === undefined) return [];
    return [
      {
        id: `both ${list.id}`,
        title: t`Keep ${tab} in step with ${list.name}`,
        says: t`Each hour, a change on either side goes to the other. What both sides changed waits for a person.`,
      },
      {
        id: `in ${list.id}`,
        title: t`Read ${list.name} into ${tab}`,
        says: t`Each morning, rows are added and updated from the list. Nothing is written to it.`,
      },
    ];
  });
  return [
    ...offered,
    {
      id: "empty",
      title: t`Start empty`,
      says: t`Choose the list, the tab, and which field goes with which column.`,
    },
  ];
}

/** tabLike gives the tab whose name has most of a list's name in it; undefined where it has
 * none of it, unless there is one tab alone. */
function tabLike(tracker: Tracker, list: string): Tab | undefined {
  const words = list.toLowerCase().match(/[\p{L}\p{N}]{3,}/gu) ?? [];
  const shared = (tab: Tab) => words.filter((w) => tab.name.toLowerCase().includes(w)).join("").length;
  const best = [...tracker.tabs].sort((a, b) => shared(b) - shared(a))[0];
  return best && (shared(best) > 0 || tracker.tabs.length === 1) ? best : undefined;
}

/** listOf gives the list that a beginning of a sync is about. */
export const listOf = (from: string, lists: Definition[]): Definition | undefined =>
  lists.find((l) => l.id === from.split(" ")[1]);

/** newSync gives a sync to begin with, its fields paired by what the list holds, if that is known. */
export function newSync(tracker: Tracker, lists: Definition[], from: string, sample?: ListSample): Body {
  const list = listOf(from, lists);
  if (!list) return { name: "", list: lists[0]?.name ?? "", direction: "in", clock: "daily at 06:00" };
  const both = from.startsWith("both ");
  const tab = tabLike(tracker, list.name);
  return {
    name: both ? `Keep ${tab?.name ?? ""} in step` : `Read ${list.name}`,
    list: list.name,
    tab: tab?.name ?? "",
    direction: both ? "both" : "in",
    clock: both ? "every hour" : "daily at 06:00",
    ...(tab && sample && pairs(tab, sample)),
  };
}
