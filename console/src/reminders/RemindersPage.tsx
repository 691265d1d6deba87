// What people are told of, and when: reminders say which rows, rounds send one email to each
// person.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { App, Button, Modal } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, problemOf, type Definition } from "../api/client";
import { Beginnings } from "../automation/Beginnings";
import { kinds, list, type Kind } from "../automation/kinds";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useTrackers } from "../parts/queries";
import { Sentence } from "../parts/Sentence";
import { reminderBeginnings, roundBeginnings } from "./body";
import "../automation/automation.css";

export default function RemindersPage() {
  const { tracker = "" } = useParams();
  const may = useMay(tracker);
  const navigate = useNavigate();
  const trackers = useTrackers();
  const here = trackers.data?.find((one) => one.id === tracker || one.name === tracker);
  const [choosing, setChoosing] = useState<Kind["name"]>();
  const groups = [
    {
      kind: kinds.reminder,
      title: t`Reminders`,
      says: t`which rows somebody is told of`,
      found: useQuery({ queryKey: ["reminders", tracker], queryFn: () => list(kinds.reminder, tracker) }),
      from: here ? reminderBeginnings(here) : [],
    },
    {
      kind: kinds.round,
      title: t`Rounds`,
      says: t`when each person gets one email about all of them`,
      found: useQuery({ queryKey: ["rounds", tracker], queryFn: () => list(kinds.round, tracker) }),
      from: roundBeginnings,
    },
  ] as const;
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Reminders and rounds</Trans>
        </h1>
      </header>
      {groups.map((g) => {
        const none = g.found.data?.length === 0;
        return (
          <section key={g.title} className="section" aria-label={g.title}>
            <header className="section-head">
              <h2>{g.title}</h2>
              <span className="quiet">{g.says}</span>
              <span style={{ flex: 1 }} />
              {may.keep && !none && <Button onClick={() => setChoosing(g.kind.name)}>{t`New ${g.kind.called}`}</Button>}
            </header>
            {g.found.isError && <ProblemNote error={g.found.error} />}
            {none && !may.keep && (
              <p className="quiet">
                <Trans>No {g.kind.plural} yet. An admin can create one.</Trans>
              </p>
            )}
            {here && may.keep && (none || choosing === g.kind.name) && (
              <Beginnings
                title={none ? t`No ${g.kind.plural} yet. Choose how to begin:` : t`How do you want to begin?`}
                from={g.from}
                onChoose={(id) =>
                  void navigate(`/t/${here.id}/reminders/${g.kind.name}/new?from=${encodeURIComponent(id)}`)
                }
                onCancel={none ? undefined : () => setChoosing(undefined)}
              />
            )}
            {g.found.data?.map((d) => (
              <Line key={d.id} tracker={tracker} definition={d} />
            ))}
          </section>
        );
      })}
    </div>
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
