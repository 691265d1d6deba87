// Where one can go: the pages of the workspace, and those of each tracker.
import { t } from "@lingui/core/macro";
import type { Tracker } from "../api/client";

export type Place = { to: string; name: string; keep?: boolean };

/** The pages of a tracker besides its tabs, by the last part of their address. */
export const automation: { at: string; name: string; keep?: boolean }[] = [
  { at: "rules", name: t`Rules` },
  { at: "reminders", name: t`Reminders` },
  { at: "lists", name: t`Lists` },
  { at: "outbound", name: t`Files` },
  { at: "pages", name: t`Pages` },
  { at: "tallies", name: t`Charts` },
  { at: "forms", name: t`Forms` },
  { at: "tidy", name: t`Tidy up` },
  { at: "runs", name: t`History` },
  { at: "settings", name: t`Settings` },
];

/** The pages that belong to no tracker. */
export function workspacePlaces(access: string, imports: boolean): Place[] {
  const all: (Place | false)[] = [
    { to: "/", name: t`Today` },
    { to: "/mail", name: t`Mail` },
    imports && { to: "/import", name: t`Import` },
    access === "admin" && { to: "/people", name: t`People` },
    access === "admin" && { to: "/workspace", name: t`Workspace` },
  ];
  return all.filter((p) => p !== false);
}

/** titleOf names the page at an address, for the window and for whoever hears it. */
export function titleOf(path: string, trackers: Tracker[]): string {
  const [, area, tracker, page] = path.split("/");
  const names: string[] = [];
  if (area === "t") {
    const one = trackers.find((x) => x.id === tracker || x.name === tracker);
    const named = automation.find((a) => a.at === page)?.name ?? one?.tabs.find((x) => x.id === page)?.name;
    if (named) names.push(named);
    if (one) names.push(one.name);
  } else {
    const found = workspacePlaces("admin", true).find((p) => p.to === `/${area ?? ""}`);
    if (found) names.push(found.name);
  }
  return [...names, "Kavlo"].join(" · ");
}

const lastTracker = "kavlo tracker";

/** inUse gives the tracker that one is in, or was in last; for who was in none, the largest. */
export function inUse(path: string, trackers: Tracker[]): Tracker | undefined {
  const [, area, name] = path.split("/");
  const here = area === "t" ? trackers.find((one) => one.id === name || one.name === name) : undefined;
  if (here) {
    window.localStorage.setItem(lastTracker, here.id);
    return here;
  }
  const last = window.localStorage.getItem(lastTracker);
  return trackers.find((one) => one.id === last) ?? [...trackers].sort((a, b) => size(b) - size(a))[0];
}

const size = (tracker: Tracker) => tracker.tabs.reduce((rows, tab) => rows + tab.rows, 0);
