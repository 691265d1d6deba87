// Ready beginnings for a rule, in the words of the trade, filled in for the tracker at hand.
import { t } from "@lingui/core/macro";
import type { Column, Tab, Tracker } from "../api/client";
import { named } from "../automation/condition";
import type { Beginning } from "../automation/Beginnings";
import { columnsOf } from "./body";

const is = (type: Column["type"]) => (c: Column) => c.type === type && !c.clause;

/** routed gives a column whose options are names of tabs, and those tabs. */
export function routed(tabs: Tab[]): { column: Column; tabs: Tab[] } | undefined {
  for (const column of columnsOf(tabs)) {
    const named = tabs.filter((one) => column.options?.some((o) => o.name.toLowerCase() === one.name.toLowerCase()));
    if (named.length > 1) return { column, tabs: named };
  }
  return undefined;
}

/** beginnings gives what suits a tracker, an empty rule last. */
export function beginnings(tracker: Tracker): Beginning[] {
  const { tabs } = tracker;
  const out: Beginning[] = [];
  const first = tabs[0];
  const route = routed(tabs);
  if (route) {
    const column = named(route.column.name);
    out.push({
      id: "route",
      title: t`Move rows by ${route.column.name}`,
      says: t`When ${route.column.name} is edited, the row moves to the tab of that name.`,
      body: {
        name: `Move rows by ${route.column.name}`,
        wake: { edit: [route.column.name] },
        in: route.tabs.map((one) => one.name),
        where: `${column} is not blank and ${column} is not tab`,
        steps: [{ move: { to: `{${column}}` } }],
      },
    });
  }
  const ticked = tabs.find((one) => one.columns.some(is("checkbox")));
  const archive = tabs.find((one) => /archive|done|closed|returned|past/i.test(one.name)) ?? tabs[tabs.length - 1];
  const box = ticked?.columns.find(is("checkbox"));
  if (ticked && box && archive && archive !== ticked) {
    out.push({
      id: "archive",
      title: t`Archive what is ticked`,
      says: t`When ${box.name} is ticked in ${ticked.name}, the row moves to ${archive.name}.`,
      body: {
        name: `Archive what is ticked`,
        wake: { edit: [box.name] },
        in: ticked.name,
        where: named(box.name),
        steps: [{ move: { to: archive.name } }],
      },
    });
  }
  const dated = tabs.find((one) => one.columns.some(is("date")));
  const due =
    dated?.columns.find((c) => is("date")(c) && /due|deadline|expected|until|by/i.test(c.name)) ??
    dated?.columns.find(is("date"));
  const flag = dated?.columns.find((c) => /flag|status|mark|late|remark|note/i.test(c.name) && !c.clause && c !== due);
  if (dated && due && flag) {
    const late =
      flag.type === "choice"
        ? (flag.options?.find((o) => /late|overdue/i.test(o.name)) ?? flag.options?.[0])?.name
        : "Late";
    out.push({
      id: "late",
      title: t`Mark what is late`,
      says: t`Each weekday morning, rows of ${dated.name} whose ${due.name} has passed get ${flag.name} ${late ?? "Late"}.`,
      body: {
        name: "Mark what is late",
        wake: { clock: "weekdays at 08:00" },
        in: dated.name,
        where: `${named(due.name)} before today and ${named(flag.name)} is blank`,
        steps: [{ set: { [flag.name]: late ?? "Late" } }],
      },
    });
  }
  if (first) {
    out.push(
      {
        id: "intake",
        title: t`Import a file that arrives`,
        says: t`A file in the folder intake is imported into ${first.name}, matched by ${first.columns[0]?.name ?? t`a key`}.`,
        body: {
          name: `Import into ${first.name}`,
          wake: { file: "intake/*" },
          steps: [{ take: { tab: first.name, key: first.columns[0]?.name ?? "" } }],
        },
      },
      {
        id: "report",
        title: t`Write a file each day`,
        says: t`Each weekday morning, the rows of ${first.name} are written to a workbook.`,
        body: {
          name: `${first.name} of the day`,
          wake: { clock: "weekdays at 07:00" },
          steps: [{ write: { tab: first.name, file: `outbound/${first.name} {today}.xlsx` } }],
        },
      },
    );
    const column = first.columns.find((c) => !c.clause);
    out.push({
      id: "empty",
      title: t`Start empty`,
      says: t`Choose what starts it, for which rows, and what it does.`,
      body: {
        name: "",
        wake: { edit: column ? [column.name] : [] },
        in: first.name,
        steps: [],
      },
    });
  }
  return out;
}
