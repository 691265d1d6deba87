// A tab, and its column by which rows are found there.
import { Select } from "antd";
import type { Tracker } from "../api/client";
import { TabField } from "./TabField";

type Props = {
  tracker: Tracker;
  word: string; // before the tab
  label: string; // of the tab
  by: string; // before the column
  byLabel: string; // of the column
  tab: string;
  column: string;
  onChange: (tab: string, column: string) => void;
};

export function KeyedTabField({ tracker, word, label, by, byLabel, tab, column, onChange }: Props) {
  const columnsOf = (name: string) =>
    (tracker.tabs.find((t) => t.name === name)?.columns ?? []).filter((c) => !c.clause);
  return (
    <span className="inline-fields">
      {word}
      <TabField
        tracker={tracker}
        label={label}
        value={tab}
        onChange={(name) => onChange(name, columnsOf(name)[0]?.name ?? "")}
      />
      {by}
      <Select
        aria-label={byLabel}
        value={column}
        options={columnsOf(tab).map((c) => ({ value: c.name, label: c.name }))}
        onChange={(name: string) => onChange(tab, name)}
        popupMatchSelectWidth={false}
      />
    </span>
  );
}
