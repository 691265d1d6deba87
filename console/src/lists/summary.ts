// What a sync comes to, in one line.
import type { SyncDetail } from "../api/client";

export function summary(d: SyncDetail): string {
  const counts: [number, string][] = [
    [d.added_to_tab, "new in the tab"],
    [d.updated_in_tab, "changed in the tab"],
    [d.added_to_list, "new in the list"],
    [d.updated_in_list, "changed in the list"],
    [d.gone_from_list, "gone from the list"],
    [d.gone_from_tab, "gone from the tab"],
    [d.conflicts, "in conflict"],
    [d.unchanged, "the same"],
    [d.on_one_side, "on one side only"],
  ];
  const said = counts.filter(([n]) => n > 0).map(([n, what]) => `${n} ${what}`);
  return said.length > 0 ? `Records: ${said.join(", ")}.` : "Both sides are empty.";
}
