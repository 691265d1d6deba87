// Find and replace: what would be written is listed before it is.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Checkbox, Input, Modal, Select } from "antd";
import { useDeferredValue, useMemo, useState } from "react";
import type { Column, Person } from "../api/client";
import { canReplace, planReplace, type Replacement } from "./replace";
import type { RowStore } from "./rowStore";

type Props = {
  store: RowStore;
  ids: string[]; // of the rows shown
  chosen: string[]; // of several that are selected; none: all that are shown
  columns: Column[];
  people: Person[];
  onReplace: (edits: Replacement[]) => void;
  onClose: () => void;
};

const listed = 50;
const mostRows = 10_000; // that one change may write into

export function ReplaceDialog({ store, ids, chosen, columns, people, onReplace, onClose }: Props) {
  const [wanted, setWanted] = useState({ find: "", by: "", whole: false, exact: false });
  const [only, setOnly] = useState<string>(); // id of a column
  const [within, setWithin] = useState(chosen.length > 0);
  const asked = useDeferredValue(wanted);
  const plan = useMemo(() => {
    const rows = (within && chosen.length > 0 ? chosen : ids).map(store.row).filter((row) => row !== undefined);
    return planReplace(rows, only === undefined ? columns : columns.filter((c) => c.id === only), asked, people);
  }, [asked, chosen, columns, ids, only, people, store, within]);
  const rows = useMemo(() => new Set(plan.map((e) => e.row.id)).size, [plan]);
  const tooMany = rows > mostRows;
  const set = (part: Partial<typeof wanted>) => setWanted((w) => ({ ...w, ...part }));
  return (
    <Modal
      open
      title={t`Find and replace`}
      okText={plan.length > 0 ? t`Replace in ${plural(plan.length, { one: "# cell", other: "# cells" })}` : t`Replace`}
      okButtonProps={{ disabled: plan.length === 0 || tooMany || asked !== wanted }}
      onOk={() => {
        onReplace(plan);
        onClose();
      }}
      onCancel={onClose}
      width={560}
    >
      <div className="replace-fields">
        <label>
          <Trans>Find</Trans>
          <Input aria-label={t`Find`} autoFocus value={wanted.find} onChange={(e) => set({ find: e.target.value })} />
        </label>
        <label>
          <Trans>Replace with</Trans>
          <Input aria-label={t`Replace with`} value={wanted.by} onChange={(e) => set({ by: e.target.value })} />
        </label>
        <label>
          <Trans>In</Trans>
          <Select
            aria-label={t`In column`}
            value={only ?? ""}
            onChange={(id) => setOnly(id === "" ? undefined : id)}
            options={[
              { value: "", label: t`All columns shown` },
              ...columns.filter(canReplace).map((c) => ({ value: c.id, label: c.name })),
            ]}
          />
        </label>
        {chosen.length > 0 && (
          <Checkbox checked={within} onChange={(e) => setWithin(e.target.checked)}>
            {plural(chosen.length, { one: "Only in the selected row", other: "Only in the # selected rows" })}
          </Checkbox>
        )}
        <Checkbox checked={wanted.whole} onChange={(e) => set({ whole: e.target.checked })}>
          <Trans>Whole cell</Trans>
        </Checkbox>
        <Checkbox checked={wanted.exact} onChange={(e) => set({ exact: e.target.checked })}>
          <Trans>Match case</Trans>
        </Checkbox>
      </div>
      {wanted.find !== "" && plan.length === 0 && (
        <p className="quiet">
          <Trans>No cell holds this.</Trans>
        </p>
      )}
      {tooMany && (
        <p className="late">
          <Trans>
            {rows} rows are more than the {mostRows} that one change may write. Filter or select fewer.
          </Trans>
        </p>
      )}
      <ul className="plain replace-list">
        {plan.slice(0, listed).map((e) => (
          <li key={e.row.id + e.column.id}>
            <span className="quiet">
              {e.row.label}, {e.column.name}:
            </span>{" "}
            <span>{`${e.before} → ${e.value === "" ? t`blank` : e.value}`}</span>
          </li>
        ))}
        {plan.length > listed && (
          <li className="quiet">
            <Trans>and {plan.length - listed} more</Trans>
          </li>
        )}
      </ul>
    </Modal>
  );
}
