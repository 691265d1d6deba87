// What one changes in a tab: edits of cells go through a queue, everything else is said to have
// been done once it is. Either can be taken back.
import { t } from "@lingui/core/macro";
import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { useCallback, useEffect, useMemo, useSyncExternalStore } from "react";
import { api, ask, problemOf, type ChangeSet, type Column, type Row } from "../api/client";
import { live } from "../api/live";
import type { components } from "../api/schema";
import { useSession } from "../parts/queries";
import type { Edit, EditedCell } from "./editQueue";
import { inParts, inRequests, largest } from "./bulk";
import { queueOf } from "./editQueues";
import { remarks } from "./remarks";
import type { RowStore } from "./rowStore";
import { useBulk } from "./useBulk";
import { useUndo } from "./useUndo";

export type CellEdit = { row: Row; column: Column; value: unknown };

const nobody = 0;

const toCell = ({ row, column, value }: CellEdit): EditedCell => ({
  row: row.id,
  label: row.label,
  column: column.name,
  value,
  before: row.cells[column.name],
  version: row.version,
});

export function useEdits(tracker: string, store: RowStore) {
  const { notification } = App.useApp();
  const queries = useQueryClient();
  const person = useSession().data?.person.id ?? nobody;
  const queue = useMemo(() => queueOf(person, tracker), [person, tracker]);
  // the page is drawn again when something waits or is refused, and not at every edit
  const refused = useSyncExternalStore(queue.subscribe, queue.refused);
  const waiting = useSyncExternalStore(queue.subscribe, queue.waiting);
  const isAway = useSyncExternalStore(queue.subscribe, queue.isAway);

  useEffect(() => {
    if (isAway) void queries.invalidateQueries({ queryKey: ["session"] }); // is it that nobody is signed in?
  }, [isAway, queries]);
  useEffect(() => live.subscribe(() => live.state() === "live" && queue.hurry()), [queue]);

  const tell = useCallback(
    (set: ChangeSet) => {
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

  // setFew makes the edits of a block, all or none.
  const setFew = useCallback((edits: CellEdit[]) => queue.add(edits.map(toCell)), [queue]);
  const typing = useCallback((edit: CellEdit | undefined) => queue.typing(edit && toCell(edit)), [queue]);
  const set = useCallback((edit: CellEdit) => setFew([edit]), [setFew]);

  // many puts notes and styles on several rows, all or none, and says whether it did.
  const many = useCallback(
    async (edits: components["schemas"]["RowEdit"][]) => {
      try {
        accept(
          await ask(api.PATCH("/api/v1/trackers/{tracker}/rows", { params: { path: { tracker } }, body: { edits } })),
        );
        return true;
      } catch (err) {
        refuse(err);
        return false;
      }
    },
    [accept, refuse, tracker],
  );

  const settled = useCallback(() => queue.settled(), [queue]);
  const { undo, redo, undoOne } = useUndo({ tracker, settled, take });
  const { setAll, working } = useBulk({ tracker, settled, accept, refuse });
  const setMany = (edits: CellEdit[]) => {
    const requests = edits.length > largest ? inRequests(edits) : undefined;
    if (requests) void setAll(requests);
    else inParts(edits).forEach(setFew);
  };

  return {
    set,
    typing,
    setMany,
    many,
    undo,
    redo,
    working, // on edits of very many cells
    undoOne,
    accept,
    refuse,
    refused,
    waiting,
    retry: (e: Edit, how?: Parameters<typeof queue.retry>[1]) => queue.retry(e.key, how),
    discard: (e: Edit) => queue.discard(e.key),
  };
}

export type Edits = ReturnType<typeof useEdits>;
