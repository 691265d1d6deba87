// A choice of several tabs.
import { t } from "@lingui/core/macro";
import { Select } from "antd";
import type { Tracker } from "../api/client";

type Props = { tracker: Tracker; value: string[]; placeholder?: string; onChange: (names: string[]) => void };

export function TabsField({ tracker, value, placeholder, onChange }: Props) {
  return (
    <Select
      showSearch={{ optionFilterProp: "label" }}
      mode="multiple"
      aria-label={t`Tabs`}
      value={value}
      placeholder={placeholder}
      options={tracker.tabs.map((one) => ({ value: one.name, label: one.name }))}
      onChange={onChange}
      style={{ minWidth: 180, maxWidth: 520 }}
      popupMatchSelectWidth={false}
    />
  );
}
