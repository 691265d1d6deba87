// How a tab is looked at: a named view, which columns are shown and in which order, and saving
// it for everybody.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App, Button, Checkbox, Input, InputNumber, Select } from "antd";
import { useState } from "react";
import type { ChangeSet, Tab, Tracker } from "../api/client";
import { drop, kinds, save } from "../automation/kinds";
import { OrderHandle } from "../parts/OrderHandle";
import { ProblemNote } from "../parts/ProblemNote";
import { useOrder } from "../parts/useOrder";
import { bodyOf, columnsShown } from "./arrangement";
import type { Arranged } from "./useArrangement";

type Props = {
  tracker: Tracker;
  tab: Tab;
  arranged: Arranged;
  frozen: number; // as the grid has it
  mayKeep: boolean; // save views for everybody
  onSaved: (set: ChangeSet) => void; // so that it can be undone
};

const everything = "";

export function ViewPanel({ tracker, tab, arranged, frozen, mayKeep, onSaved }: Props) {
  const { arrangement: a, arrange, begin, views, view, changed } = arranged;
  const { notification } = App.useApp();
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const shown = columnsShown(a, tab.columns).map((c) => c.name);
  const hidden = tab.columns.map((c) => c.name).filter((n) => !shown.includes(n));
  const all = tab.columns.map((c) => c.name);
  const show = (names: string[]) =>
    arrange({ columns: names.length === all.length && names.every((n, i) => n === all[i]) ? [] : names });
  const order = useOrder(shown, show);
  const keep = useMutation({
    mutationFn: (as: string) =>
      save(
        kinds.view,
        tracker.id,
        bodyOf(a, as, tab.name, tab.columns),
        views.find((v) => v.name === as),
      ),
    onSuccess: async (set, as) => {
      await queries.invalidateQueries({ queryKey: ["views", tracker.id] });
      begin(as);
      setName("");
      onSaved(set);
      notification.success({ key: "view", title: t`Saved view ${as}`, placement: "bottomLeft" });
    },
  });
  const remove = useMutation({
    mutationFn: (id: string) => drop(kinds.view, tracker.id, id),
    onSuccess: async (set) => {
      begin(everything);
      await queries.invalidateQueries({ queryKey: ["views", tracker.id] });
      onSaved(set);
      notification.success({ key: "view", title: t`Deleted view ${view?.name ?? ""}`, placement: "bottomLeft" });
    },
  });
  return (
    <div role="dialog" aria-label={t`View`} className="view-panel">
      <label className="view-panel-line">
        <Trans>View</Trans>
        <Select
          autoFocus
          aria-label={t`Named view`}
          value={view?.name ?? everything}
          options={[
            { value: everything, label: t`All rows and columns` },
            ...views.map((v) => ({ value: v.name, label: v.name })),
          ]}
          onChange={begin}
          style={{ flex: 1 }}
        />
      </label>
      {changed && (
        <p className="quiet view-panel-line">
          <Trans>Unsaved changes.</Trans>
          <Button size="small" onClick={() => begin(view?.name ?? everything)}>{t`Reset to saved view`}</Button>
          {mayKeep && (
            <Button
              size="small"
              loading={keep.isPending}
              onClick={() => keep.mutate(view?.name ?? "")}
            >{t`Save changes for everyone`}</Button>
          )}
        </p>
      )}
      <ul className="view-panel-columns" aria-label={t`Columns shown`}>
        {shown.map((column, i) => {
          const { entry, handle } = order(i);
          return (
            <li key={column} {...entry}>
              <OrderHandle label={t`Move ${column}`} {...handle} />
              <Checkbox checked disabled={shown.length === 1} onChange={() => show(shown.filter((n) => n !== column))}>
                {column}
              </Checkbox>
            </li>
          );
        })}
        {hidden.map((column) => (
          <li key={column}>
            <Checkbox checked={false} onChange={() => show([...shown, column])}>
              {column}
            </Checkbox>
          </li>
        ))}
      </ul>
      <label className="view-panel-line">
        <Trans>Frozen columns</Trans>
        <InputNumber
          aria-label={t`Frozen columns`}
          min={0}
          max={shown.length}
          value={frozen}
          onChange={(n) => arrange({ frozen: n ?? undefined })}
          style={{ width: 70 }}
        />
      </label>
      {mayKeep && (
        <form
          className="view-panel-line"
          onSubmit={(e) => {
            e.preventDefault();
            if (name.trim() !== "") keep.mutate(name.trim());
          }}
        >
          <Input
            aria-label={t`Name of the view`}
            placeholder={t`Name of the view`}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <Button
            htmlType="submit"
            disabled={name.trim() === ""}
            loading={keep.isPending}
          >{t`Save for everyone`}</Button>
        </form>
      )}
      {keep.error && <ProblemNote error={keep.error} />}
      {remove.error && <ProblemNote error={remove.error} />}
      <p className="view-panel-line">
        {Object.keys(a.widths).length > 0 && (
          <Button size="small" onClick={() => arrange({ widths: {} })}>{t`Reset widths`}</Button>
        )}
        {view && mayKeep && (
          <Button size="small" danger onClick={() => remove.mutate(view.id)}>{t`Delete view ${view.name}`}</Button>
        )}
      </p>
    </div>
  );
}
