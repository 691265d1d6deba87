// Ready beginnings for a form, filled in for the tracker at hand.
import { t } from "@lingui/core/macro";
import type { Tab, Tracker } from "../api/client";
import type { Beginning } from "../automation/Beginnings";

const mostOffered = 5;

/** asked gives the columns of a tab that somebody can fill in. */
const asked = (tab?: Tab) => (tab?.columns ?? []).filter((c) => !c.clause && !c.automatic_number);

/** formBeginnings gives a form for each tab that asks for all its columns, and a short one last. */
export function formBeginnings(tracker: Tracker): Beginning[] {
  const tabs = tracker.tabs.filter((one) => asked(one).length > 0).slice(0, mostOffered);
  const first = tracker.tabs[0];
  return [
    ...tabs.map((tab) => ({
      id: `add ${tab.id}`,
      title: t`Add rows to ${tab.name}`,
      says: t`Asks for ${asked(tab)
        .map((c) => c.name)
        .join(", ")}.`,
      body: {
        name: `Add to ${tab.name}`,
        tab: tab.name,
        fields: asked(tab).map((c) => (c.required ? { [c.name]: { required: "yes" } } : c.name)),
      },
    })),
    {
      id: "empty",
      title: t`Start empty`,
      says: t`Choose the tab, and which columns the form asks for.`,
      body: {
        name: "",
        tab: first?.name ?? "",
        fields: asked(first)
          .slice(0, 3)
          .map((c) => c.name),
      },
    },
  ];
}
