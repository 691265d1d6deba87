// Where one can go: the pages of the workspace, and those of each tracker.
import type { Tracker } from "../api/client";

export type Place = { to: string; name: string; keep?: boolean };

/** The pages of a tracker besides its tabs, by the last part of their address. */
export const automation: { at: string; name: string; keep?: boolean }[] = [
  { at: "rules", name: "Rules" },
  { at: "reminders", name: "Reminders" },
  { at: "lists", name: "Lists" },
  { at: "outbound", name: "Files" },
  { at: "pages", name: "Pages" },
  { at: "tallies", name: "Charts" },
  { at: "forms", name: "Forms" },
  { at: "tidy", name: "Tidy up" },
  { at: "runs", name: "History" },
  { at: "settings", name: "Settings" },
];

/** The pages that belong to no tracker. */
export function workspacePlaces(access: string, imports: boolean): Place[] {
  const all: (Place | false)[] = [
    { to: "/", name: "Today" },
    { to: "/mail", name: "Mail" },
    imports && { to: "/import", name: "Import" },
    access === "admin" && { to: "/people", name: "People" },
    access === "admin" && { to: "/workspace", name: "Workspace" },
  ];
  return all.filter((p) => p !== false);
}

/** titleOf names the page at an address, for the window and for whoever hears it. */
export function titleOf(path: string, trackers: Tracker[]): string {
  const [, area, tracker, page] = path.split("/");
  const names: string[] = [];
  if (area === "t") {
    const t = trackers.find((x) => x.id === tracker || x.name === tracker);
    const named = automation.find((a) => a.at === page)?.name ?? t?.tabs.find((x) => x.id === page)?.name;
    if (named) names.push(named);
    if (t) names.push(t.name);
  } else {
    const found = workspacePlaces("admin", true).find((p) => p.to === `/${area ?? ""}`);
    if (found) names.push(found.name);
  }
  return [...names, "Kavlo"].join(" · ");
}

const lastTracker = "kavlo tracker";

/** inUse gives the tracker that one is in, or was in last. */
export function inUse(path: string, trackers: Tracker[]): Tracker | undefined {
  const [, area, name] = path.split("/");
  const here = area === "t" ? trackers.find((t) => t.id === name || t.name === name) : undefined;
  if (here) {
    window.localStorage.setItem(lastTracker, here.id);
    return here;
  }
  const last = window.localStorage.getItem(lastTracker);
  return trackers.find((t) => t.id === last) ?? trackers[0];
}
