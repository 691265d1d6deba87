// Lists kept elsewhere and the tabs they are kept in step with: conflicts that
// wait for a person, what each sync would do to both sides, and its run.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
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
        {may.keep && (
          <>
            <Button onClick={() => void navigate(`/t/${tracker}/lists/list/new`)}>{t`New list`}</Button>
            <Button disabled={lists.data?.length === 0} onClick={() => void navigate(`/t/${tracker}/lists/sync/new`)}>
              {t`New sync`}
            </Button>
          </>
        )}
      </header>
      {failed && <ProblemNote error={failed.error} />}
      {held.data && <Conflicts tracker={tracker} held={held.data} />}
      <section className="section">
        <h2>
          <Trans>Syncs</Trans>
        </h2>
        {syncs.data?.length === 0 && (
          <p className="quiet">
            {lists.data?.length === 0
              ? t`No lists yet. Create a list that says where records are, then a sync.`
              : t`No syncs yet. Create one that pairs a list with a tab.`}
          </p>
        )}
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
