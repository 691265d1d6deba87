// Lists kept elsewhere and the tabs they are kept in step with: conflicts that
// wait for a person, what each sync would do to both sides, and its run.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { useBeginnings } from "../automation/Beginnings";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useTracker } from "../parts/queries";
import { listBeginnings, syncBeginnings } from "./beginnings";
import { Conflicts } from "./Conflicts";
import { SyncCard } from "./SyncCard";
import "./lists.css";

export default function ListsPage() {
  const { tracker = "" } = useParams();
  const may = useMay(tracker);
  const navigate = useNavigate();
  const path = { params: { path: { tracker } } };
  const [open, setOpen] = useState<string>();
  const syncs = useQuery({
    queryKey: ["syncs", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/syncs", path)),
  });
  const lists = useQuery({
    queryKey: ["lists", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/lists", path)),
  });
  const held = useQuery({
    queryKey: ["conflicts", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/conflicts", path)),
  });
  const here = useTracker(tracker);
  const newList = useBeginnings({
    keep: may.keep,
    none: lists.data && lists.data.length === 0,
    create: t`New list`,
    nothing: t`No lists yet. Where are the records kept?`,
    barred: t`No lists yet. An admin can create one.`,
    from: listBeginnings(),
    onChoose: (id) => void navigate(`/t/${tracker}/lists/list/new?from=${id}`),
  });
  const newSync = useBeginnings({
    keep: may.keep && here !== undefined,
    none: syncs.data && lists.data && syncs.data.length === 0 && lists.data.length > 0,
    create: t`New sync`,
    nothing: t`No syncs yet. Choose how to begin:`,
    barred: t`No syncs yet. An admin can create one.`,
    from: here ? syncBeginnings(here, lists.data ?? [], syncs.data ?? []) : [],
    onChoose: (id) => void navigate(`/t/${tracker}/lists/sync/new?from=${encodeURIComponent(id)}`),
  });
  const failed = [syncs, lists, held].find((q) => q.isError);
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Lists</Trans>
        </h1>
        <span className="quiet">
          <Trans>records kept elsewhere, and the tabs that are in sync with them</Trans>
        </span>
        <span style={{ flex: 1 }} />
        {newList.button}
        {lists.data?.length !== 0 && newSync.button}
      </header>
      {failed && <ProblemNote error={failed.error} />}
      {newList.offers}
      {newSync.offers}
      {held.data && <Conflicts tracker={tracker} held={held.data} />}
      <section className="section" hidden={syncs.data?.length === 0}>
        <h2>
          <Trans>Syncs</Trans>
        </h2>
        {syncs.data?.map((s) => (
          <SyncCard
            key={s.id}
            tracker={tracker}
            sync={s}
            list={lists.data?.find((l) => l.name === s.body.list)}
            open={open === s.id}
            onOpen={(is) => setOpen(is ? s.id : undefined)}
          />
        ))}
      </section>
      {lists.data && lists.data.length > 0 && (
        <section className="section" aria-label={t`Lists`}>
          <h2>
            <Trans>Lists</Trans>
          </h2>
          {lists.data.map((l) => (
            <p key={l.id}>
              {may.keep ? <Link to={`/t/${tracker}/lists/list/${l.id}`}>{l.name}</Link> : <strong>{l.name}</strong>}{" "}
              <span className="quiet">{l.says}</span>
            </p>
          ))}
        </section>
      )}
    </div>
  );
}
