// One run: what set it off, what each step did, every change, and the way back.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Table } from "antd";
import type { HTMLAttributes } from "react";
import type { ColumnType } from "antd/es/table";
import { useNavigate, useParams } from "react-router";
import { api, ask, problemOf, type Run, type SyncDetail } from "../api/client";
import { Troubles, Writes } from "../lists/Sides";
import { summary } from "../lists/summary";
import "../lists/lists.css";
import { Changes } from "../parts/Changes";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useWhen } from "../parts/queries";
import { show } from "../parts/text";
import { Outcome } from "./Outcome";

export default function RunPage() {
  const when = useWhen();
  const { tracker = "", run = "" } = useParams();
  const navigate = useNavigate();
  const may = useMay(tracker);
  const found = useQuery({
    queryKey: ["run", run],
    queryFn: () => ask(api.GET("/api/v1/runs/{run}", { params: { path: { run } } })),
  });
  if (found.isPending)
    return (
      <div className="page quiet">
        <Trans>Loading…</Trans>
      </div>
    );
  if (found.isLoadingError)
    return (
      <div className="page">
        <ProblemNote error={found.error} />
      </div>
    );
  const r = found.data;
  return (
    <div className="page">
      <header>
        <h1>{r.name || r.kind}</h1>
        <Outcome run={r} />
        <span className="quiet">
          <Trans>
            {r.kind}, {when(r.at, r.tracker)}, set off by {r.cause}
          </Trans>
        </span>
        <span style={{ flex: 1 }} />
        <Button onClick={() => void navigate(`/t/${tracker}/runs`)}>{t`All runs`}</Button>
        {r.seq !== undefined && !r.undone && may.edit && <Undo run={r} />}
      </header>
      {r.problem && <ProblemNote error={new Error(r.problem)} />}
      <Steps run={r} />
      <Would run={r} />
      <PassedOver rows={r.passed_over ?? []} />
      {r.kind === "sync" ? <SyncReport detail={r.detail as SyncDetail | undefined} /> : <Detail detail={r.detail} />}
      {(r.changes?.length ?? 0) > 0 && (
        <section className="section">
          <h2>
            <Trans>Changes</Trans>
          </h2>
          <Changes changes={r.changes ?? []} more={r.more} />
        </section>
      )}
    </div>
  );
}

function Undo({ run }: { run: Run }) {
  const queries = useQueryClient();
  const { modal, notification } = App.useApp();
  const undo = useMutation({
    mutationFn: (force: boolean) =>
      ask(
        api.POST("/api/v1/undo/{what}", { params: { path: { what: run.id }, query: force ? { force: "yes" } : {} } }),
      ),
    onSuccess: (set) => {
      notification.success({
        title: t`Undone`,
        description: t`${plural(set.changes.length, { one: "# change", other: "# changes" })} undone, as change set ${set.seq ?? 0}.`,
      });
      void queries.invalidateQueries();
    },
    onError: (err) => {
      const p = problemOf(err);
      if (!p.conflicts?.length) {
        notification.error({ title: p.title, description: p.detail });
        return;
      }
      modal.confirm({
        title: t`Later changes stand in the way`,
        content: p.conflicts.map((c) => <div key={c}>{c}</div>),
        okText: t`Undo the rest`,
        onOk: () => undo.mutateAsync(true).catch(() => undefined), // onError says why
      });
    },
  });
  return (
    <Button type="primary" loading={undo.isPending} onClick={() => undo.mutate(false)}>
      {t`Undo run`}
    </Button>
  );
}

/** labelled gives the cells of a stacked table the heads of their columns. */
const labelled = <T,>(columns: ColumnType<T>[]): ColumnType<T>[] =>
  columns.map((c) => ({ ...c, onCell: () => ({ "data-label": c.title }) as HTMLAttributes<HTMLElement> }));

function Steps({ run }: { run: Run }) {
  const steps = (run.rules ?? []).flatMap((rule) =>
    (rule.steps ?? []).map((s, i) => ({
      key: `${rule.rule} ${i}`,
      rule: rule.rule,
      n: i + 1,
      first: i === 0,
      span: rule.steps?.length ?? 1,
      ...s,
      considered: rule.considered,
      matched: rule.matched,
      passed: rule.passed,
    })),
  );
  if (steps.length === 0) return null;
  return (
    <section className="section">
      <h2>
        <Trans>Steps</Trans>
      </h2>
      <Table
        size="small"
        pagination={false}
        className="stacked"
        dataSource={steps}
        columns={labelled<(typeof steps)[number]>([
          { title: t`Rule`, dataIndex: "rule" },
          { title: t`Rows checked`, dataIndex: "considered", align: "right" },
          { title: t`Matched`, dataIndex: "matched", align: "right" },
          { title: t`Skipped`, dataIndex: "passed", align: "right" },
          { title: t`Step`, render: (_, s) => `${s.n}, ${s.name ?? s.kind}` },
          { title: t`Rows`, dataIndex: "rows", align: "right" },
          { title: t`Changes`, dataIndex: "changed", align: "right" },
          {
            title: t`Duration`,
            align: "right",
            render: (_, s) => `${(s.took / 1000).toFixed(1)} ms`,
          },
          { title: t`Remark`, render: (_, s) => [s.says, s.remark].filter(Boolean).join("; ") },
        ])}
      />
    </section>
  );
}

function Would({ run }: { run: Run }) {
  const watching = (run.rules ?? []).filter((r) => r.watching);
  if (watching.length === 0) return null;
  return (
    <section className="section">
      <h2>
        <Trans>Would have happened</Trans>
      </h2>
      {watching.map((r) => (
        <div key={r.rule}>
          <p className="quiet">
            <Trans>{r.rule} is a dry run. It would have changed:</Trans>
          </p>
          <ul className="plain">
            {r.would?.map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  );
}

function PassedOver({ rows }: { rows: NonNullable<Run["passed_over"]> }) {
  if (rows.length === 0) return null;
  return (
    <section className="section">
      <h2>
        <Trans>Skipped</Trans>
      </h2>
      <ul className="plain">
        {rows.map((p) => (
          <li key={p.row + p.why}>
            {p.label}{" "}
            <span className="quiet">
              <Trans>in {p.tab}:</Trans>
            </span>{" "}
            {p.why}
          </li>
        ))}
      </ul>
    </section>
  );
}

function SyncReport({ detail }: { detail?: SyncDetail }) {
  if (!detail) return null;
  return (
    <section className="section">
      <h2>
        <Trans>Both sides</Trans>
      </h2>
      <p>{summary(detail)}</p>
      {(detail.writes?.length ?? 0) > 0 && (
        <>
          <h3>
            <Trans>The list took</Trans>
          </h3>
          <Writes writes={detail.writes ?? []} more={detail.more ?? 0} />
        </>
      )}
      {detail.stopped && <p className="late">{detail.stopped}</p>}
      <Troubles detail={detail} />
    </section>
  );
}

function Detail({ detail }: { detail: unknown }) {
  if (detail === null || typeof detail !== "object") return null;
  const entries = Object.entries(detail).filter(([, v]) => show(v) !== "");
  if (entries.length === 0) return null;
  return (
    <section className="section">
      <h2>
        <Trans>Report</Trans>
      </h2>
      {entries.map(([k, v]) => (
        <div key={k}>
          <span className="quiet">{k.replaceAll("_", " ")}:</span>{" "}
          {Array.isArray(v) ? v.map((x, i) => <div key={i}>{show(x)}</div>) : show(v)}
        </div>
      ))}
    </section>
  );
}
