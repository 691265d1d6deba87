// Who has a page open, and where in it they are, as the service last told.
import type { components } from "./schema";

export type Present = components["schemas"]["Present"];

const nobody: Present[] = [];
let all = nobody;
const watchers = new Set<() => void>();

export const presence = {
  list: () => all,
  subscribe: (notify: () => void): (() => void) => {
    watchers.add(notify);
    return () => watchers.delete(notify);
  },
  take: (now: Present[]) => {
    all = now;
    for (const w of watchers) w();
  },
};
