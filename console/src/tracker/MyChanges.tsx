// One's own changes of a tracker, newest first: each can be undone, or done again.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { ProblemNote } from "../parts/ProblemNote";
import { useWhen } from "../parts/queries";
import { original, redoable, undoable, type Mine } from "./undoing";
import { fetchMine } from "./useUndo";

type Props = { tracker: string; onUndo: (entry: Mine) => Promise<void> };

export function MyChanges({ tracker, onUndo }: Props) {
  const when = useWhen();
  const mine = useQuery({ queryKey: ["mine", tracker], queryFn: () => fetchMine(tracker) });
  const undo = useMutation({ mutationFn: (e: Mine) => onUndo(e) });
  const all = mine.data ?? [];
  // what acts on each change: itself, or the last time that it was undone or done again
  const byChange = (acts: Mine[]) => new Map(acts.map((e) => [original(e, all).seq, e]));
  const canUndo = byChange(undoable(all));
  const canRedo = byChange(redoable(all));
  return (
    <section className="my-changes" aria-label={t`My changes`}>
      <h3>
        <Trans>My changes</Trans>
      </h3>
      {mine.isError && <ProblemNote error={mine.error} />}
      {undo.isError && <ProblemNote error={undo.error} />}
      {mine.isSuccess && all.length === 0 && (
        <p className="quiet">
          <Trans>You have changed nothing in this tracker yet.</Trans>
        </p>
      )}
      <ul className="plain">
        {all
          .filter((e) => !e.undoes)
          .map((e) => {
            const act = canUndo.get(e.seq) ?? canRedo.get(e.seq);
            const stands = canUndo.has(e.seq);
            return (
              <li key={e.seq}>
                <div>
                  <span className="quiet">{when(e.at, tracker)}</span> {stands ? e.says : <s>{e.says}</s>}
                </div>
                {act && (
                  <Button
                    size="small"
                    loading={undo.isPending && undo.variables.seq === act.seq}
                    onClick={() => undo.mutate(act)}
                  >
                    {stands ? t`Undo this change` : t`Redo this change`}
                  </Button>
                )}
              </li>
            );
          })}
      </ul>
    </section>
  );
}
