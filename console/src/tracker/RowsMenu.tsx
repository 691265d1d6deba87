// The buttons that concern what is selected: what can be done to its rows, and its details.
import { t } from "@lingui/core/macro";
import { Button, Dropdown, type MenuProps } from "antd";
import { useState } from "react";

export type RowItems = NonNullable<MenuProps["items"]>;

const none: RowItems = [];

/** RowsMenu asks what can be done when it is opened. */
export function RowsMenu({ items }: { items: () => RowItems }) {
  const [shown, setShown] = useState(none);
  return (
    <Dropdown menu={{ items: shown }} trigger={["click"]} onOpenChange={(open) => open && setShown(items())}>
      <Button>{t`Rows`}</Button>
    </Dropdown>
  );
}

export function DetailsButton({ shown, onPress }: { shown: boolean; onPress: () => void }) {
  return (
    <Button type={shown ? "primary" : "default"} aria-pressed={shown} onClick={onPress} title={t`F4`}>
      {t`Details`}
    </Button>
  );
}
