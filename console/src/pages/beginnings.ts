// Ready beginnings for a kind of page, filled in for the tracker at hand.
import { t } from "@lingui/core/macro";
import type { Tracker } from "../api/client";
import type { Beginning } from "../automation/Beginnings";
import { newPattern } from "./pattern";

const mostOffered = 5;

/** pageBeginnings gives a kind of page for the rows of each tab, an empty one last. */
export function pageBeginnings(tracker: Tracker): Beginning[] {
  const tabs = tracker.tabs.filter((one) => one.columns.some((c) => !c.clause)).slice(0, mostOffered);
  return [
    ...tabs.map((tab) => ({
      id: `of ${tab.id}`,
      title: t`A page for each row of ${tab.name}`,
      says: t`What its columns say, and a log that is added to.`,
      body: { ...newPattern(tab), name: `Page of ${tab.name}` },
    })),
    {
      id: "empty",
      title: t`Start empty`,
      says: t`Choose the rows, and what stands on their pages.`,
      body: newPattern(tracker.tabs[0]),
    },
  ];
}
