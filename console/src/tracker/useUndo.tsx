// Undo and redo of one's own changes of a tracker, as the journal has them: of every kind, and
// over reloads. What later changes block is passed over, with a word on what blocks it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { useCallback } from "react";
import { api, ask, problemOf, type ChangeSet } from "../api/client";
import { original, redoable, undoable, type Mine } from "./undoing";

const asFar = 100; // how many of one's changes are looked at
const mostPassed = 5; // how many blocked ones are passed over at once

/** fetchMine gives one's own newest changes of a tracker. */
export function fetchMine(tracker: string): Promise<Mine[]> {
  return ask(
    api.GET("/api/v1/trackers/{tracker}/journal", {
      params: { path: { tracker }, query: { mine: "yes", limit: asFar } },
    }),
  );
}

type Given = {
  tracker: string;
  settled: () => Promise<void>; // of edits under way: the last one may not be known yet
  take: (set: ChangeSet) => void;
};

export function useUndo({ tracker, settled, take }: Given) {
  const { notification } = App.useApp();
  const queries = useQueryClient();

  const undoOne = useCallback(
    async (entry: Mine) => {
      take(await ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(entry.seq) } } })));
      await queries.invalidateQueries({ queryKey: ["mine", tracker] });
    },
    [queries, take, tracker],
  );

  const step = useCallback(
    async (from: (mine: Mine[]) => Mine[], done: string, none: string) => {
      await settled();
      const passed: { says: string; why: string }[] = [];
      const tell = (title: string, says?: string) =>
        notification.info({
          key: "undo",
          title,
          placement: "bottomLeft",
          description: (
            <>
              {says}
              {passed.map((p) => (
                <div key={p.says} className="late">
                  <Trans>
                    Skipped: {p.says}. {p.why}
                  </Trans>
                </div>
              ))}
            </>
          ),
        });
      try {
        const mine = await fetchMine(tracker);
        for (const entry of from(mine).slice(0, mostPassed)) {
          const { says } = original(entry, mine);
          try {
            await undoOne(entry);
            return tell(done, says);
          } catch (err) {
            const p = problemOf(err);
            if (p.status !== 409) throw err;
            passed.push({ says, why: p.conflicts?.join("; ") ?? p.detail });
          }
        }
        tell(passed.length > 0 ? t`Blocked by later changes` : none);
      } catch (err) {
        const p = problemOf(err);
        notification.error({ key: "undo", title: p.title, description: p.detail, placement: "bottomLeft" });
      }
    },
    [notification, settled, tracker, undoOne],
  );

  return {
    undo: useCallback(() => step(undoable, t`Undone`, t`Nothing to undo`), [step]),
    redo: useCallback(() => step(redoable, t`Redone`, t`Nothing to redo`), [step]),
    undoOne,
  };
}
