// One sync: what it does, what it would do to either side now, and its run.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, problemOf, type ChangeSet, type Definition } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { Sentence } from "../parts/Sentence";
import { Sides } from "./Sides";
import { summary } from "./summary";

type Props = { tracker: string; sync: Definition; list?: Definition; open: boolean; onOpen: (is: boolean) => void };

function run(tracker: string, sync: string, preview: boolean, beyond: boolean): Promise<ChangeSet> {
  const query = { ...(preview && { preview: "yes" as const }), ...(beyond && { beyond_guard: "yes" as const }) };
  return ask(
    api.POST("/api/v1/trackers/{tracker}/syncs/{definition}/run", {
      params: { path: { tracker, definition: sync }, query },
    }),
  );
}

export function SyncCard({ tracker, sync, list, open, onOpen }: Props) {
  const may = useMay(tracker);
  return (
    <article className="sync" aria-label={sync.name}>
      <div className="sync-head">
        <div>
          {may.keep ? (
            <Link to={`/t/${tracker}/lists/sync/${sync.id}`}>
              <strong>{sync.name}</strong>
            </Link>
          ) : (
            <strong>{sync.name}</strong>
          )}
          <div>
            <Sentence text={sync.says} />
          </div>
          {list && (
            <div className="quiet">
              {list.says} {typeof list.body.remark === "string" && list.body.remark}
            </div>
          )}
        </div>
        {may.edit && (
          <Button size="small" onClick={() => onOpen(!open)} aria-expanded={open}>
            {open ? t`Close` : t`Preview`}
          </Button>
        )}
      </div>
      {open && <SyncPreview tracker={tracker} sync={sync} />}
    </article>
  );
}

function SyncPreview({ tracker, sync }: { tracker: string; sync: Definition }) {
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const [beyond, setBeyond] = useState(false);
  const preview = useQuery({
    queryKey: ["sync preview", tracker, sync.id, beyond],
    queryFn: () => run(tracker, sync.id, true, beyond),
  });
  const go = useMutation({
    mutationFn: () => run(tracker, sync.id, false, beyond),
    onSuccess: (set) => {
      const text = set.sync ? summary(set.sync) : "";
      if (set.sync?.stopped)
        notification.warning({
          title: t`Partly done`,
          description: t`${set.sync.stopped}. ${plural(set.sync.not_sent ?? 0, { one: "# write", other: "# writes" })} wait for the next run.`,
          duration: 0,
        });
      else notification.success({ title: t`Sync complete`, description: text });
    },
    onError: (err) =>
      notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 }),
    onSettled: () => void queries.invalidateQueries(),
  });
  if (preview.isPending)
    return (
      <p className="quiet">
        <Trans>Asking the list…</Trans>
      </p>
    );
  if (preview.isError) {
    const guard = problemOf(preview.error).type === "urn:kavlo:guard";
    return (
      <>
        <ProblemNote error={preview.error} />
        {guard && problemOf(preview.error).hint && (
          <div className="sync-foot">
            <Button size="small" onClick={() => setBeyond(true)}>
              {t`Preview anyway`}
            </Button>
          </div>
        )}
      </>
    );
  }
  const set = preview.data;
  const writes = set.sync?.writes ?? [];
  // what both sides changed is put before a person by the run alone
  const nothing = set.changes.length + writes.length + (set.sync?.conflicts ?? 0) === 0;
  return (
    <>
      <p>{set.sync && summary(set.sync)}</p>
      {beyond && (
        <p className="soon">
          <Trans>This is more than the change limit lets change or go by itself.</Trans>
        </p>
      )}
      <Sides set={set} />
      <div className="sync-foot">
        <Button type="primary" danger={beyond} loading={go.isPending} disabled={nothing} onClick={() => go.mutate()}>
          {nothing ? t`No changes needed` : beyond ? t`Sync anyway` : t`Sync now`}
        </Button>
      </div>
    </>
  );
}
