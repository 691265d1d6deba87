// A choice of one tab.
import { Select } from "antd";
import type { Tracker } from "../api/client";

type Props = { tracker: Tracker; value: string; label?: string; onChange: (name: string) => void };

export function TabField({ tracker, value, label = "Tab", onChange }: Props) {
  return (
    <Select
      aria-label={label}
      value={value || undefined}
      placeholder="choose a tab"
      options={tracker.tabs.map((t) => ({ value: t.name, label: t.name }))}
      onChange={onChange}
      popupMatchSelectWidth={false}
    />
  );
}
