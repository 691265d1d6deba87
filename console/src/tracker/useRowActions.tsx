// What is done to whole rows: copied by a form, moved to another tab, deleted.
import { plural, t } from "@lingui/core/macro";
import { useMutation } from "@tanstack/react-query";
import { App, Button, type MenuProps } from "antd";
import { useNavigate } from "react-router";
import { api, ask, type Tab, type Tracker } from "../api/client";
import type { Spot } from "./AddRow";
import type { RowStore } from "./rowStore";
import type { Edits } from "./useEdits";

type Given = {
  tracker: Tracker;
  tab: Tab;
  store: RowStore;
  edits: Edits;
  rows: string[]; // ids of those that are selected
  ids: string[]; // of all that are shown
  inOrder: boolean; // they stand as the tab has them, and not sorted
  mayAdd: boolean;
  onNew: (cells: Record<string, unknown>, at: Spot) => void; // a form for a new row
};

type Actions = {
  items: NonNullable<MenuProps["items"]>;
  moveTo?: (tab: string) => void; // by its id
  place?: (at: Spot) => void; // where rows stand in the order of the tab
};

/** useRowActions gives the menu of what can be done to the selected rows, and what a drag of them does. */
export function useRowActions({ tracker, tab, store, edits, rows, ids, inOrder, mayAdd, onNew }: Given): Actions {
  const { notification } = App.useApp();
  const navigate = useNavigate();
  const params = { path: { tracker: tracker.id } };
  // what is chosen, as it is when one says so: the selection goes on once its rows have gone
  const chosen = {
    rows,
    label:
      rows.length === 1
        ? (store.row(rows[0] ?? "")?.label ?? "")
        : plural(rows.length, { one: "# row", other: "# rows" }),
  };
  const tell = (title: string, actions?: React.ReactNode) =>
    notification.success({
      key: "rows",
      title,
      placement: "bottomLeft",
      actions: (
        <span className="inline-fields">
          {actions}
          <Button
            size="small"
            onClick={() => {
              notification.destroy("rows");
              void edits.undo();
            }}
          >
            {t`Undo`}
          </Button>
        </span>
      ),
    });
  type What = typeof chosen;
  const move = useMutation({
    mutationFn: ({ rows, to }: What & { to: Tab }) =>
      ask(api.POST("/api/v1/trackers/{tracker}/rows/move", { params, body: { rows, to: to.id } })),
    onSuccess: (set, { rows, label, to }) => {
      edits.accept(set);
      tell(
        t`Moved ${label} to ${to.name}`,
        <Button size="small" onClick={() => void navigate(`/t/${tracker.id}/${to.id}?row=${rows[0] ?? ""}`)}>
          {t`Show`}
        </Button>,
      );
    },
    onError: edits.refuse,
  });
  const remove = useMutation({
    mutationFn: ({ rows }: What) => ask(api.POST("/api/v1/trackers/{tracker}/rows/remove", { params, body: { rows } })),
    onSuccess: (set, { label }) => {
      edits.accept(set);
      tell(t`Deleted ${label}`);
    },
    onError: edits.refuse,
  });
  const place = useMutation({
    mutationFn: ({ rows, at }: What & { at: Spot }) =>
      ask(
        api.POST("/api/v1/trackers/{tracker}/tabs/{tab}/rows/place", {
          params: { path: { tracker: tracker.id, tab: tab.id } },
          body: { rows, ...at },
        }),
      ),
    onSuccess: (set) => edits.accept(set),
    onError: edits.refuse,
  });
  const first = rows[0] ?? "";
  const last = rows.at(-1) ?? "";
  const above = ids[ids.indexOf(first) - 1];
  const below = ids[ids.indexOf(last) + 1];
  const copy = () => {
    const row = store.row(first);
    if (!row) return;
    const kept = tab.columns.filter((c) => !c.unique && !c.automatic_number && !c.clause && row.cells[c.name] !== null);
    onNew(Object.fromEntries(kept.map((c) => [c.name, row.cells[c.name]])), { after: row.id });
  };
  if (rows.length === 0 || tab.read_only) return { items: [] };
  const others = tracker.tabs.filter((other) => other.id !== tab.id && !other.read_only);
  const items: Actions["items"] = [
    { key: "above", label: t`Add row above…`, disabled: !mayAdd, onClick: () => onNew({}, { before: first }) },
    { key: "below", label: t`Add row below…`, disabled: !mayAdd, onClick: () => onNew({}, { after: last }) },
    { key: "copy", label: t`Duplicate row…`, disabled: rows.length !== 1 || !mayAdd, onClick: copy },
    {
      key: "up",
      label: t`Move up`,
      disabled: !inOrder || above === undefined,
      onClick: () => above !== undefined && place.mutate({ ...chosen, at: { before: above } }),
    },
    {
      key: "down",
      label: t`Move down`,
      disabled: !inOrder || below === undefined,
      onClick: () => below !== undefined && place.mutate({ ...chosen, at: { after: below } }),
    },
    {
      key: "move",
      label: plural(rows.length, { one: "Move row to", other: "Move # rows to" }),
      children: others.map((to) => ({ key: to.id, label: to.name, onClick: () => move.mutate({ ...chosen, to }) })),
    },
    { type: "divider" },
    {
      key: "delete",
      danger: true,
      label: plural(rows.length, { one: "Delete row", other: "Delete # rows" }),
      onClick: () => remove.mutate(chosen),
    },
  ];
  return {
    items,
    moveTo: (id) => {
      const to = others.find((other) => other.id === id);
      if (to) move.mutate({ ...chosen, to });
    },
    place: inOrder ? (at) => place.mutate({ ...chosen, at }) : undefined,
  };
}
