// What one changes in a tab: edits of cells go through a queue, everything else is said to have
// been done once it is. Either can be taken back.
import { plural, t } from "@lingui/core/macro";
import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { useCallback, useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import { api, ask, problemOf, type ChangeSet, type Column, type Row } from "../api/client";
import { live } from "../api/live";
import type { components } from "../api/schema";
import { useSession } from "../parts/queries";
import type { Edit } from "./editQueue";
import { queueOf } from "./editQueues";
import { remarks } from "./remarks";
import type { RowStore } from "./rowStore";

export type CellEdit = { row: Row; column: Column; value: unknown };

const nobody = 0;

export function useEdits(tracker: string, store: RowStore) {
  const { notification } = App.useApp();
  const queries = useQueryClient();
  const person = useSession().data?.person.id ?? nobody;
  const queue = useMemo(() => queueOf(person, tracker), [person, tracker]);
  const all = useSyncExternalStore(queue.subscribe, queue.list);
  const isAway = useSyncExternalStore(queue.subscribe, queue.isAway);
  const done = useRef<number[]>([]); // change sets of mine, for taking back

  useEffect(() => {
    if (isAway) void queries.invalidateQueries({ queryKey: ["session"] }); // is it that nobody is signed in?
  }, [isAway, queries]);
  useEffect(() => live.subscribe(() => live.state() === "live" && queue.hurry()), [queue]);

  const tell = useCallback(
    (set: ChangeSet) => {
      if (set.seq) done.current.push(set.seq);
      const said = remarks(set);
      if (said.length > 0) {
        notification.info({
          key: "read",
          title: t`Check what was read`,
          description: said.map((s) => <div key={s}>{s}</div>),
          placement: "bottomLeft",
          duration: 8,
        });
      }
      if (set.followed.length > 0) {
        notification.success({
          key: "followed",
          title: set.rows?.[0]?.label ?? t`Done`,
          description: set.followed.map((f) => <div key={f}>{f}</div>),
          placement: "bottomLeft",
        });
      }
    },
    [notification],
  );
  useEffect(() => queue.saved(tell), [queue, tell]);

  const take = useCallback(
    (set: ChangeSet) => {
      for (const row of set.rows ?? []) store.put(row);
      for (const c of set.changes) if (c.kind === "remove" && c.row) store.drop(c.row);
    },
    [store],
  );
  const accept = useCallback(
    (set: ChangeSet) => {
      take(set);
      tell(set);
    },
    [take, tell],
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

  // setMany makes the edits of a block, all or none.
  const setMany = useCallback(
    (edits: CellEdit[]) =>
      queue.add(
        edits.map(({ row, column, value }) => ({
          row: row.id,
          label: row.label,
          column: column.name,
          value,
          before: row.cells[column.name],
          version: row.version,
        })),
      ),
    [queue],
  );
  const set = useCallback((edit: CellEdit) => setMany([edit]), [setMany]);

  // many sets several rows off at once, all or none.
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

  const takeBack = useCallback(async () => {
    await queue.settled(); // the last change may not be known yet
    const seq = done.current.at(-1);
    if (seq === undefined)
      return notification.info({
        key: "undo",
        title: t`Nothing to undo on this page`,
        description: t`You have changed nothing on this page yet.`,
        placement: "bottomLeft",
      });
    try {
      const set = await ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } }));
      done.current.pop();
      take(set);
      notification.info({
        key: "undo",
        title: t`Undone`,
        description: t`${plural(set.changes.length, { one: "# change", other: "# changes" })} undone`,
        placement: "bottomLeft",
      });
    } catch (err) {
      refuse(err);
      // what cannot be undone any more holds up nothing that can
      if ([404, 409].includes(problemOf(err).status)) done.current.pop();
    }
  }, [notification, queue, refuse, take]);

  return {
    set,
    setMany,
    many,
    takeBack,
    accept,
    refuse,
    refused: useMemo(() => all.filter((e) => e.refused), [all]),
    waiting: isAway ? all.filter((e) => !e.refused).length : 0,
    retry: (e: Edit, how?: Parameters<typeof queue.retry>[1]) => queue.retry(e.key, how),
    discard: (e: Edit) => queue.discard(e.key),
  };
}

export type Edits = ReturnType<typeof useEdits>;
