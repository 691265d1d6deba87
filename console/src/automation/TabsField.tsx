// A choice of several tabs.
import { Select } from "antd";
import type { Tracker } from "../api/client";

type Props = { tracker: Tracker; value: string[]; placeholder?: string; onChange: (names: string[]) => void };

export function TabsField({ tracker, value, placeholder, onChange }: Props) {
  return (
    <Select
      mode="multiple"
      aria-label="Tabs"
      value={value}
      placeholder={placeholder}
      options={tracker.tabs.map((t) => ({ value: t.name, label: t.name }))}
      onChange={onChange}
      style={{ minWidth: 180, maxWidth: 520 }}
      popupMatchSelectWidth={false}
    />
  );
}
