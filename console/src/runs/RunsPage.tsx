// Every run of a tracker, newest first.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Button, Segmented, Table } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, ask, type Run } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { AsOf } from "./AsOf";
import { JournalList } from "./JournalList";
import { countWords, Outcome } from "./Outcome";
import { useRoom } from "../parts/useMedia";
import { useWhen } from "../parts/queries";

const step = 50;

const views = [
  { value: "runs", label: t`Runs`, says: t`rules, syncs, rounds and imports, and edits from which something followed` },
  { value: "changes", label: t`All changes`, says: t`who changed what, and when` },
  { value: "as-of", label: t`As of a moment`, says: t`a tab as it was, with what differs from now marked` },
] as const;

export default function RunsPage() {
  const { tracker = "" } = useParams();
  const [query, setQuery] = useSearchParams();
  const shown = views.find((v) => v.value === query.get("show")) ?? views[0];
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>History</Trans>
        </h1>
        <Segmented
          size="small"
          value={shown.value}
          options={views.map(({ value, label }) => ({ value, label }))}
          onChange={(show) => setQuery({ show })}
        />
        <span className="quiet">{shown.says}</span>
      </header>
      {shown.value === "runs" && <Runs tracker={tracker} />}
      {shown.value === "changes" && <JournalList tracker={tracker} />}
      {shown.value === "as-of" && <AsOf tracker={tracker} />}
    </div>
  );
}

function Runs({ tracker }: { tracker: string }) {
  const when = useWhen();
  const room = useRoom();
  const navigate = useNavigate();
  const [most, setMost] = useState(step);
  const runs = useQuery({
    queryKey: ["runs", tracker, most],
    queryFn: () =>
      ask(api.GET("/api/v1/trackers/{tracker}/runs", { params: { path: { tracker }, query: { limit: most } } })),
    placeholderData: (before) => before,
  });
  return (
    <>
      {runs.isError && <ProblemNote error={runs.error} />}
      <Table<Run>
        size="small"
        rowKey="id"
        loading={runs.isPending}
        pagination={false}
        dataSource={runs.data}
        locale={{ emptyText: t`No runs yet. Rules run when a row is edited, at a time, or by hand.` }}
        onRow={(r) => ({ onDoubleClick: () => void navigate(r.id) })}
        columns={[
          { title: t`When`, render: (_, r) => when(r.at, tracker), width: room(150) },
          { title: t`Run`, render: (_, r) => <Link to={r.id}>{r.name || r.kind}</Link> },
          { title: t`Kind`, dataIndex: "kind", width: room(80) },
          { title: t`Outcome`, render: (_, r) => <Outcome run={r} />, width: room(150) },
          { title: t`Started by`, dataIndex: "cause" },
          { title: t`Changes`, render: (_, r) => countWords(r.counts) },
        ]}
      />
      {runs.data?.length === most && most < 500 && (
        <Button type="link" onClick={() => setMost(Math.min(500, most + step))}>
          {t`Show older runs`}
        </Button>
      )}
    </>
  );
}
