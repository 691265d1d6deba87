// Ready beginnings for a chart, filled in for the tracker at hand.
import { t } from "@lingui/core/macro";
import type { Beginning } from "../automation/Beginnings";
import type { Column, Tab, Tracker } from "../api/client";
import { named } from "../automation/condition";
import { newTally } from "./body";

const is = (type: Column["type"]) => (c: Column) => c.type === type && !c.clause;

/** inMost gives the column of a kind that most tabs have, and those tabs. */
function inMost(tabs: Tab[], kind: (c: Column) => boolean): { column: Column; tabs: Tab[] } | undefined {
  let best: { column: Column; tabs: Tab[] } | undefined;
  for (const column of tabs.flatMap((one) => one.columns.filter(kind))) {
    const having = tabs.filter((one) => one.columns.some((c) => c.id === column.id));
    if (having.length > (best?.tabs.length ?? 0)) best = { column, tabs: having };
  }
  return best;
}

/** chartBeginnings gives charts that suit a tracker's columns, an empty one last. */
export function chartBeginnings(tracker: Tracker): Beginning[] {
  const out: Beginning[] = [];
  const { tabs } = tracker;
  const figures = { Rows: "count" };
  const choice = inMost(tabs, is("choice"));
  if (choice) {
    const by = choice.column.name;
    out.push({
      id: "choice",
      title: t`Rows by ${by}`,
      says: t`How many rows have each ${by}, as bars.`,
      body: { name: `Rows by ${by}`, of: choice.tabs.map((one) => one.name), by: [by], figures, draw: "bar" },
    });
  }
  const date = inMost(tabs, is("date"));
  if (date) {
    const number = inMost(date.tabs, (c) => is("number")(c) && !c.automatic_number && c.format !== "rating");
    const sum = number && number.tabs.length === date.tabs.length ? number.column.name : undefined;
    out.push({
      id: "monthly",
      title: t`Monthly figures`,
      says: sum
        ? t`For each month of ${date.column.name}: how many rows, and the sum of ${sum}.`
        : t`For each month of ${date.column.name}: how many rows.`,
      body: {
        name: "Monthly figures",
        of: date.tabs.map((one) => one.name),
        by: [{ Month: `month of ${named(date.column.name)}` }],
        figures: sum ? { ...figures, [sum]: `sum ${named(sum)}` } : figures,
        draw: "bar",
      },
    });
  }
  const person = inMost(tabs, is("person"));
  if (person) {
    const by = person.column.name;
    out.push({
      id: "person",
      title: t`Rows of each ${by}`,
      says: t`How many rows each ${by} has, as bars.`,
      body: { name: `Rows of each ${by}`, of: person.tabs.map((one) => one.name), by: [by], figures, draw: "bar" },
    });
  }
  out.push({
    id: "empty",
    title: t`Start empty`,
    says: t`Choose the rows, what they are grouped by, and the figures.`,
    body: newTally(tracker),
  });
  return out;
}
