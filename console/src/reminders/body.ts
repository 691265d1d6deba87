// Reminders and rounds as the setup file writes them, and ready beginnings for both.
import { t } from "@lingui/core/macro";
import type { Column, Tab, Tracker } from "../api/client";
import type { Beginning } from "../automation/Beginnings";
import { named } from "../automation/condition";
import { text, texts, type Body } from "../rules/body";

const typed = (type: Column["type"]) => (c: Column) => c.type === type && !c.clause;

/** dueOf gives the column of a tab that says by when something is due. */
export function dueOf(tab: Tab): Column | undefined {
  const dates = tab.columns.filter(typed("date"));
  return dates.find((c) => /due|deadline|expected|until|by\b/i.test(c.name)) ?? dates[0];
}

const mostOffered = 7;

/** reminderBeginnings gives reminders that suit a tracker's tabs, an empty one last. */
export function reminderBeginnings(tracker: Tracker): Beginning[] {
  const out: Beginning[] = [];
  for (const tab of tracker.tabs) {
    const due = dueOf(tab);
    if (!due) continue;
    const person = tab.columns.find(typed("person"));
    const shown = tab.columns.filter((c) => c !== person).slice(0, 4);
    if (!shown.includes(due)) shown.push(due);
    out.push({
      id: `overdue ${tab.id}`,
      title: t`Overdue rows of ${tab.name}`,
      says: person
        ? t`Tells the ${person.name} of each row whose ${due.name} has passed.`
        : t`Tells editors of rows whose ${due.name} has passed.`,
      body: {
        name: `Overdue in ${tab.name}`,
        in: tab.name,
        where: `${named(due.name)} before today`,
        show: shown.map((c) => c.name),
        order: due.name,
        due: due.name,
        to: person ? `{${named(person.name)}}` : "editors",
      },
    });
  }
  const first = tracker.tabs[0];
  const shown = out.slice(0, mostOffered);
  shown.push({
    id: "empty",
    title: t`Start empty`,
    says: t`Choose the rows, what is shown of them, and who is told.`,
    body: { name: "", in: first?.name ?? "", show: first?.columns.slice(0, 2).map((c) => c.name) ?? [] },
  });
  return shown;
}

/** roundBeginnings gives rounds to begin with. */
export const roundBeginnings: Beginning[] = [
  {
    id: "morning",
    title: t`One morning email`,
    says: t`Each weekday morning, everybody gets one email about all rows that need them.`,
    body: { name: "Morning round", clock: "weekdays at 08:30", reminders: "all" },
  },
  {
    id: "weekly",
    title: t`One email a week`,
    says: t`Each Monday morning, everybody gets one email about all rows that need them.`,
    body: { name: "Weekly round", clock: "mondays at 08:30", reminders: "all" },
  },
];

/** What a reminder lacks before it can be saved. */
export function reminderLacks(body: Body): string[] {
  const out: string[] = [];
  if (text(body.name).trim() === "") out.push(t`a name`);
  if (texts(body.in).length === 0) out.push(t`the tabs whose rows it is about`);
  if (text(body.where).trim() === "") out.push(t`a condition`);
  if (!Array.isArray(body.show) || body.show.length === 0) out.push(t`what is shown of the rows`);
  if (texts(body.to).length === 0) out.push(t`who is told`);
  return out;
}

/** What a round lacks. */
export function roundLacks(body: Body): string[] {
  const out: string[] = [];
  if (text(body.name).trim() === "") out.push(t`a name`);
  if (text(body.clock).trim() === "") out.push(t`its schedule`);
  if (text(body.reminders) !== "all" && texts(body.reminders).length === 0) out.push(t`the reminders that it sends`);
  return out;
}
