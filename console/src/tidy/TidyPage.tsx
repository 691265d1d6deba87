// What is not right with the rows of a tracker, each with a fix for all of it at once:
// seen beforehand, done through the door, and undone as any change.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Table } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask, problemOf, type Untidy } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { orBlank, show } from "../parts/text";
import "../forms/forms.css";

const kinds: Record<Untidy["kind"], string> = {
  odd: t`Odd cells`,
  doubled: t`Should be unique`,
  blank: t`Required, and blank`,
  spelling: t`Spelt in several ways`,
  "out of bounds": t`Out of bounds`,
  "impossible date": t`Impossible dates`,
};

export default function TidyPage() {
  const { tracker = "" } = useParams();
  const found = useQuery({
    queryKey: ["tidy", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/tidy", { params: { path: { tracker } } })),
  });
  const groups = Object.entries(kinds)
    .map(([kind, title]) => ({ title, all: found.data?.filter((f) => f.kind === kind) ?? [] }))
    .filter((g) => g.all.length > 0);
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Tidy up</Trans>
        </h1>
        <span className="quiet">
          <Trans>odd, missing and inconsistent values, with a fix where one is known</Trans>
        </span>
      </header>
      {found.isError && <ProblemNote error={found.error} />}
      {found.isPending && (
        <p className="quiet">
          <Trans>Loading…</Trans>
        </p>
      )}
      {found.data?.length === 0 && (
        <p>
          <Trans>No problems found in the rows.</Trans>
        </p>
      )}
      {groups.map((g) => (
        <section key={g.title} className="section" aria-label={g.title}>
          <h2>{g.title}</h2>
          {g.all.map((f) => (
            <Finding key={f.id} tracker={tracker} found={f} />
          ))}
        </section>
      ))}
    </div>
  );
}

function Finding({ tracker, found: f }: { tracker: string; found: Untidy }) {
  const may = useMay(tracker);
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const [to, setTo] = useState("");
  const failed = (err: unknown) =>
    notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 });
  const undo = useMutation({
    mutationFn: (seq: number) => ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } })),
    onSuccess: () => void queries.invalidateQueries(),
    onError: failed,
  });
  const fix = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/v1/trackers/{tracker}/tidy", {
          params: { path: { tracker } },
          body: { id: f.id, ...(to.trim() !== "" ? { to: to.trim() } : {}) },
        }),
      ),
    onSuccess: (set) => {
      const seq = set.seq ?? 0;
      notification.success({
        title: t`Fixed ${plural(set.counts.set ?? set.changes.length, { one: "# cell", other: "# cells" })}`,
        actions: seq > 0 && (
          <Button size="small" onClick={() => undo.mutate(seq)}>
            {t`Undo`}
          </Button>
        ),
      });
      void queries.invalidateQueries();
    },
    onError: failed,
  });
  const cells = to.trim() !== "" ? f.count : f.mended;
  return (
    <article className="untidy" aria-label={t`${f.column} in ${f.tab}`}>
      <h3>
        <Trans>
          {f.column} in {f.tab}
        </Trans>
      </h3>
      <p className="quiet">
        {f.says}; {plural(f.count, { one: "# cell", other: "# cells" })}
        {f.mended < f.count && f.mended > 0 && t`, ${f.mended} with a fix`}.
      </p>
      <Table
        size="small"
        rowKey="row"
        pagination={f.cells.length > 10 ? { pageSize: 10, showSizeChanger: false } : false}
        scroll={{ x: true }}
        dataSource={f.cells}
        columns={[
          {
            title: t`Row`,
            render: (_, c) => <Link to={`/t/${tracker}/${f.tab_id}?row=${c.row}`}>{c.label}</Link>,
          },
          { title: t`Is`, render: (_, c) => orBlank(c.before) },
          {
            title: t`Would be`,
            render: (_, c) =>
              to.trim() !== ""
                ? to
                : show(c.after) || (
                    <span className="quiet">
                      <Trans>no fix known</Trans>
                    </span>
                  ),
          },
          { title: t`Why`, render: (_, c) => <span className="quiet">{c.why}</span> },
        ]}
      />
      {f.count > f.cells.length && (
        <p className="quiet">
          <Trans>and {plural(f.count - f.cells.length, { one: "# more cell", other: "# more cells" })}</Trans>
        </p>
      )}
      {may.edit && (
        <div className="form-links">
          {f.kind !== "doubled" && (
            <Input
              value={to}
              onChange={(e) => setTo(e.target.value)}
              placeholder={f.mended > 0 ? t`or another value for all` : t`a value for all`}
              aria-label={t`A value for all cells of ${f.column}`}
              style={{ width: 220 }}
            />
          )}
          <Button disabled={cells === 0} loading={fix.isPending} onClick={() => fix.mutate()}>
            {cells === 0 ? t`No fix known` : t`Fix ${plural(cells, { one: "# cell", other: "# cells" })}`}
          </Button>
        </div>
      )}
    </article>
  );
}
