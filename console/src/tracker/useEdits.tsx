// Edits on their way to the service: shown at once as pending, confirmed or
// refused by its answer. Two people in one cell are both shown to the second.
import { App } from "antd";
import { useCallback, useRef, useState } from "react";
import { api, ask, problemOf, type ChangeSet, type Column, type Row } from "../api/client";
import { plural } from "../parts/text";
import type { components } from "../api/schema";
import type { RowStore } from "./rowStore";

export type Race = { row: Row; current: Row; column: Column; mine: unknown };
export type CellEdit = { row: Row; column: Column; value: unknown };

function same(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

function setCell(tracker: string, row: Row, column: Column, value: unknown): Promise<ChangeSet> {
  return ask(
    api.PATCH("/api/v1/trackers/{tracker}/tabs/{tab}/rows/{row}", {
      params: { path: { tracker, tab: row.tab_id, row: row.id }, header: { "If-Match": `"${row.version}"` } },
      body: { cells: { [column.name]: value } },
    }),
  );
}

export function useEdits(tracker: string, store: RowStore) {
  const { notification } = App.useApp();
  const [race, setRace] = useState<Race>();
  const done = useRef<number[]>([]); // change sets of mine, for taking back

  const accept = useCallback(
    (set: ChangeSet) => {
      for (const row of set.rows ?? []) store.put(row);
      for (const c of set.changes) if (c.kind === "remove" && c.row) store.drop(c.row);
      if (set.seq) done.current.push(set.seq);
      if (set.followed.length > 0) {
        notification.success({
          key: "followed",
          title: set.rows?.[0]?.label ?? "Done",
          description: set.followed.map((f) => <div key={f}>{f}</div>),
          placement: "bottomLeft",
        });
      }
    },
    [notification, store],
  );

  const refuse = useCallback(
    (err: unknown) => {
      const p = problemOf(err);
      notification.error({
        key: "refused",
        title: p.title,
        description: p.detail,
        placement: "bottomLeft",
        duration: 8,
      });
    },
    [notification],
  );

  const setOne = useCallback(
    async ({ row, column, value }: CellEdit): Promise<void> => {
      store.setPending(row.id, column.name, typeof value === "string" ? value : String(value));
      let seen = row;
      for (;;) {
        try {
          accept(await setCell(tracker, seen, column, value));
          break;
        } catch (err) {
          const p = problemOf(err);
          if (p.status !== 412 || !p.current) {
            refuse(err);
            break;
          }
          store.put(p.current);
          if (!same(p.current.cells[column.name], row.cells[column.name])) {
            setRace({ row, current: p.current, column, mine: value });
            break;
          }
          seen = p.current; // somebody changed another cell of the row: both edits stand
        }
      }
      store.setPending(row.id, column.name, undefined);
    },
    [accept, refuse, store, tracker],
  );

  // many makes edits of several rows, all or none.
  const many = useCallback(
    async (edits: components["schemas"]["RowEdit"][]) => {
      try {
        accept(
          await ask(api.PATCH("/api/v1/trackers/{tracker}/rows", { params: { path: { tracker } }, body: { edits } })),
        );
      } catch (err) {
        refuse(err);
      }
    },
    [accept, refuse, tracker],
  );

  // setMany makes the edits of a block, all or none.
  const setMany = useCallback(
    async (edits: CellEdit[]) => {
      const byRow = new Map<string, { row: string; version: number; cells: Record<string, unknown> }>();
      for (const e of edits) {
        const one = byRow.get(e.row.id) ?? { row: e.row.id, version: e.row.version, cells: {} };
        one.cells[e.column.name] = e.value;
        byRow.set(e.row.id, one);
      }
      await many([...byRow.values()]);
    },
    [many],
  );

  const settle = useCallback(
    async (mine: boolean) => {
      const r = race;
      setRace(undefined);
      if (r && mine) await setOne({ row: r.current, column: r.column, value: r.mine });
    },
    [race, setOne],
  );

  const takeBack = useCallback(async () => {
    const seq = done.current.at(-1);
    if (seq === undefined)
      return notification.info({
        key: "undo",
        title: "Nothing to take back",
        description: "You have changed nothing on this page yet.",
        placement: "bottomLeft",
      });
    try {
      const set = await ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } }));
      done.current.pop();
      for (const row of set.rows ?? []) store.put(row);
      for (const c of set.changes) if (c.kind === "remove" && c.row) store.drop(c.row);
      notification.info({
        key: "undo",
        title: "Taken back",
        description: `${plural(set.changes.length, "change")} undone`,
        placement: "bottomLeft",
      });
    } catch (err) {
      refuse(err);
    }
  }, [notification, refuse, store]);

  return { set: setOne, setMany, many, race, settle, takeBack, accept, refuse };
}

export type Edits = ReturnType<typeof useEdits>;
