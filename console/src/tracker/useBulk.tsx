// Sends edits that give very many rows the same, says how far that is, and lets one stop it.
import { plural, t } from "@lingui/core/macro";
import { App } from "antd";
import { api, ask, type ChangeSet } from "../api/client";
import { useWorking } from "../parts/useWorking";
import type { Alike } from "./bulk";

type Given = {
  tracker: string;
  settled: () => Promise<void>; // once what was edited before is saved
  accept: (set: ChangeSet) => void;
  refuse: (err: unknown) => void;
};

export function useBulk({ tracker, settled, accept, refuse }: Given) {
  const { notification } = App.useApp();
  const working = useWorking();
  const setAll = async (requests: Alike[]) => {
    const cells = requests.reduce((n, r) => n + r.rows.length * Object.keys(r.cells).length, 0);
    let done = 0;
    let over: AbortSignal | undefined;
    try {
      await working.run(async (signal) => {
        over = signal;
        await settled();
        for (const request of requests) {
          accept(
            await ask(
              api.POST("/api/v1/trackers/{tracker}/rows/cells", {
                params: { path: { tracker } },
                body: request,
                signal,
              }),
            ),
          );
          done++;
        }
      });
      notification.success({
        title: plural(cells, { one: "# cell changed", other: "# cells changed" }),
        description: t`Undo takes it back.`,
        placement: "bottomLeft",
      });
    } catch (err) {
      if (!over?.aborted) refuse(err);
      if (!over?.aborted && done === 0) return;
      notification.warning({
        title: over?.aborted ? t`Stopped` : t`Not all cells were changed`,
        description: t`${done} of ${requests.length} parts were saved. Changes lists what was, to undo it.`,
        placement: "bottomLeft",
        duration: 0,
      });
    }
  };
  return { setAll, working };
}
