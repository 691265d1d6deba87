// What people are told of, and when: reminders say which rows, rounds send one email to each
// person.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { App, Button, Modal } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, problemOf, type Definition } from "../api/client";
import { useBeginnings, type Beginning } from "../automation/Beginnings";
import { kinds, list, type Kind } from "../automation/kinds";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useTracker } from "../parts/queries";
import { Sentence } from "../parts/Sentence";
import { reminderBeginnings, roundBeginnings } from "./body";
import "../automation/automation.css";

export default function RemindersPage() {
  const { tracker = "" } = useParams();
  const here = useTracker(tracker);
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Reminders and rounds</Trans>
        </h1>
      </header>
      <Group
        kind={kinds.reminder}
        title={t`Reminders`}
        says={t`which rows somebody is told of`}
        from={here ? reminderBeginnings(here) : []}
      />
      <Group
        kind={kinds.round}
        title={t`Rounds`}
        says={t`when each person gets one email about all of them`}
        from={roundBeginnings}
      />
    </div>
  );
}

type GroupProps = { kind: Kind; title: string; says: string; from: Beginning[] };

function Group({ kind, title, says, from }: GroupProps) {
  const { tracker = "" } = useParams();
  const may = useMay(tracker);
  const navigate = useNavigate();
  const found = useQuery({ queryKey: [kind.plural, tracker], queryFn: () => list(kind, tracker) });
  const { button, offers } = useBeginnings({
    keep: may.keep && from.length > 0,
    none: found.data && found.data.length === 0,
    create: t`New ${kind.called}`,
    nothing: t`No ${kind.plural} yet. Choose how to begin:`,
    barred: t`No ${kind.plural} yet. An admin can create one.`,
    from,
    onChoose: (id) => void navigate(`/t/${tracker}/reminders/${kind.name}/new?from=${encodeURIComponent(id)}`),
  });
  return (
    <section className="section" aria-label={title}>
      <header className="section-head">
        <h2>{title}</h2>
        <span className="quiet">{says}</span>
        <span style={{ flex: 1 }} />
        {button}
      </header>
      {found.isError && <ProblemNote error={found.error} />}
      {offers}
      {found.data?.map((d) => (
        <Line key={d.id} tracker={tracker} definition={d} />
      ))}
    </section>
  );
}

function Line({ tracker, definition: d }: { tracker: string; definition: Definition }) {
  const may = useMay(tracker);
  return (
    <section className="definition" aria-label={d.name}>
      <div>
        {may.keep ? (
          <Link to={`/t/${tracker}/reminders/${d.kind}/${d.id}`}>
            <strong>{d.name}</strong>
          </Link>
        ) : (
          <strong>{d.name}</strong>
        )}
        <div>
          <Sentence text={d.says} />
        </div>
        {typeof d.body.remark === "string" && <div className="quiet">{d.body.remark}</div>}
      </div>
      {d.kind === "round" && may.edit && <RoundActs tracker={tracker} round={d} />}
    </section>
  );
}

function RoundActs({ tracker, round }: { tracker: string; round: Definition }) {
  const { notification } = App.useApp();
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const params = { path: { tracker, definition: round.id } };
  const tell = (err: unknown) =>
    notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 });
  const send = (preview: boolean) =>
    ask(
      api.POST("/api/v1/trackers/{tracker}/rounds/{definition}/run", {
        params: { ...params, query: preview ? { preview: "yes" } : {} },
      }),
    );
  const look = useMutation({ mutationFn: () => send(true), onError: tell });
  const go = useMutation({
    mutationFn: () => send(false),
    onSuccess: (r) => {
      setAsking(false);
      const says =
        r.queued > 0
          ? t`${plural(r.queued, { one: "# email", other: "# emails" })} queued.`
          : r.already > 0
            ? t`Already sent to everyone.`
            : t`No emails to send.`;
      notification.info({ title: round.name, description: says });
      if (r.queued > 0) void navigate("/mail");
    },
    onError: tell,
  });
  const trial = useMutation({
    mutationFn: () => ask(api.POST("/api/v1/trackers/{tracker}/rounds/{definition}/try", { params })),
    onSuccess: (l) => notification.info({ title: t`Test email sent`, description: t`To ${l.to}: ${l.subject}` }),
    onError: tell,
  });
  const letters = look.data?.letters ?? [];
  return (
    <div className="definition-acts">
      <Button size="small" loading={trial.isPending} onClick={() => trial.mutate()}>
        {t`Send test to me`}
      </Button>
      <Button
        size="small"
        onClick={() => {
          setAsking(true);
          look.mutate();
        }}
      >
        {t`Send now`}
      </Button>
      <Modal
        open={asking}
        title={t`Send ${round.name} now?`}
        okText={letters.length > 0 ? t`Send ${plural(letters.length, { one: "# email", other: "# emails" })}` : t`Send`}
        okButtonProps={{ disabled: letters.length === 0, loading: go.isPending }}
        onOk={() => go.mutate()}
        onCancel={() => setAsking(false)}
      >
        {look.isPending && (
          <p className="quiet">
            <Trans>Working it out…</Trans>
          </p>
        )}
        {look.data && letters.length === 0 && (
          <p>
            <Trans>No emails to send.</Trans>
          </p>
        )}
        <ul className="plain">
          {letters.map((l) => (
            <li key={l.to}>
              {l.to}: {plural(l.count, { one: "# row", other: "# rows" })}
            </li>
          ))}
        </ul>
      </Modal>
    </div>
  );
}
