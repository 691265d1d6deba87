// What a paste would do besides filling cells: add rows, and leave out what has no place.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation } from "@tanstack/react-query";
import { Modal } from "antd";
import { api, ask, type Tab, type Tracker } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import type { Paste } from "./paste";
import type { CellEdit, Edits } from "./useEdits";

type Props = {
  tracker: Tracker;
  tab: Tab;
  plan: Paste;
  edits: Pick<Edits, "accept" | "setMany">;
  cells: CellEdit[]; // of the plan
  mayAdd: boolean;
  onClose: () => void;
};

export function PasteDialog({ tracker, tab, plan, edits, cells, mayAdd, onClose }: Props) {
  const adds = mayAdd ? plan.added.length : 0;
  const paste = useMutation({
    mutationFn: async () => {
      if (adds === 0) return undefined;
      return ask(
        api.POST("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
          params: { path: { tracker: tracker.id, tab: tab.id } },
          body: { rows: plan.added },
        }),
      );
    },
    onSuccess: (set) => {
      if (set) edits.accept(set);
      if (cells.length > 0) edits.setMany(cells);
      onClose();
    },
  });
  return (
    <Modal
      open
      title={t`Paste into ${tab.name}`}
      okText={adds > 0 ? t`Paste and add ${plural(adds, { one: "# row", other: "# rows" })}` : t`Paste`}
      okButtonProps={{ disabled: adds === 0 && cells.length === 0 }}
      confirmLoading={paste.isPending}
      onOk={() => paste.mutate()}
      onCancel={onClose}
    >
      <ul>
        {cells.length > 0 && (
          <li>{plural(cells.length, { one: "# cell is written.", other: "# cells are written." })}</li>
        )}
        {adds > 0 && (
          <li>
            {plural(adds, {
              one: "# row is added at the end of the tab, since it goes beyond the last row.",
              other: "# rows are added at the end of the tab, since they go beyond the last row.",
            })}
          </li>
        )}
        {plan.added.length > adds && (
          <li className="late">
            {plural(plan.added.length, {
              one: "# row goes beyond the last row and is left out: you may not add rows here.",
              other: "# rows go beyond the last row and are left out: you may not add rows here.",
            })}
          </li>
        )}
        {plan.beyond > 0 && (
          <li className="late">
            {plural(plan.beyond, {
              one: "# column goes beyond the last one and is left out.",
              other: "# columns go beyond the last one and are left out.",
            })}
          </li>
        )}
        {plan.fixed.length > 0 && (
          <li className="late">
            <Trans>Skipped, because nothing can be written there: {plan.fixed.join(", ")}</Trans>
          </li>
        )}
      </ul>
      {paste.isError && <ProblemNote error={paste.error} />}
    </Modal>
  );
}
