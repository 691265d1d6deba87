// What a sync comes to, in one line.
import { t } from "@lingui/core/macro";
import type { SyncDetail } from "../api/client";

export function summary(d: SyncDetail): string {
  const counts: [number, string][] = [
    [d.added_to_tab, t`new in the tab`],
    [d.updated_in_tab, t`changed in the tab`],
    [d.added_to_list, t`new in the list`],
    [d.updated_in_list, t`changed in the list`],
    [d.gone_from_list, t`gone from the list`],
    [d.gone_from_tab, t`gone from the tab`],
    [d.conflicts, t`in conflict`],
    [d.unchanged, t`the same`],
    [d.on_one_side, t`on one side only`],
  ];
  const said = counts.filter(([n]) => n > 0).map(([n, what]) => `${n} ${what}`);
  return said.length > 0 ? t`Records: ${said.join(", ")}.` : t`Both sides are empty.`;
}
