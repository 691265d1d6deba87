// A choice of one tab.
import { t } from "@lingui/core/macro";
import { Select } from "antd";
import type { Tracker } from "../api/client";

type Props = { tracker: Tracker; value: string; label?: string; onChange: (name: string) => void };

export function TabField({ tracker, value, label = t`Tab`, onChange }: Props) {
  return (
    <Select
      aria-label={label}
      value={value || undefined}
      placeholder={t`choose a tab`}
      options={tracker.tabs.map((one) => ({ value: one.name, label: one.name }))}
      onChange={onChange}
      popupMatchSelectWidth={false}
    />
  );
}
