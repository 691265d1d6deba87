// What could run by itself in a tracker, from what its tabs hold: each suggestion with what
// it matches now, and one click to take it. Nothing is switched on unasked.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask, problemOf, type Tracker } from "../api/client";
import { kinds, list, save, tryOut, type Body, type Kind } from "../automation/kinds";
import { Matches } from "../automation/Matches";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useTrackers } from "../parts/queries";
import { Sentence } from "../parts/Sentence";
import { FoundOffers } from "./FoundOffers";
import { reminderBeginnings, roundBeginnings } from "../reminders/body";
import { beginnings } from "../rules/beginnings";
import "../automation/automation.css";

type Suggestion = { kind: Kind; id: string; title: string; says: string; body: Body };

/** suggestions gives what suits a tracker's tabs: rules, a reminder for each tab with dates,
 * and one email that tells of them. */
export function suggestions(tracker: Tracker): Suggestion[] {
  const of = (kind: Kind, from: { id: string; title: string; says: string; body: Body }[]) =>
    from.filter((b) => b.id !== "empty").map((b) => ({ kind, ...b }));
  const rules = of(kinds.rule, beginnings(tracker)).filter((b) => b.id !== "intake" && b.id !== "report");
  const reminders = of(kinds.reminder, reminderBeginnings(tracker));
  return [...rules, ...reminders, ...(reminders.length > 0 ? of(kinds.round, roundBeginnings.slice(0, 1)) : [])];
}

export default function StartPage() {
  const { tracker: name = "" } = useParams();
  const trackers = useTrackers();
  const tracker = trackers.data?.find((one) => one.id === name || one.name === name);
  const may = useMay(name);
  const there = useQuery({
    queryKey: ["definitions", tracker?.id],
    queryFn: async () =>
      (await Promise.all([kinds.rule, kinds.reminder, kinds.round].map((k) => list(k, tracker?.id ?? "")))).flat(),
    enabled: tracker !== undefined,
  });
  if (!tracker || !there.data) return <div className="page quiet">{there.isError ? null : t`Loading…`}</div>;
  const names = new Set(there.data.map((d) => d.name));
  const all = suggestions(tracker);
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>What should run by itself?</Trans>
        </h1>
        <span className="quiet">{tracker.name}</span>
      </header>
      <p>
        <Trans>
          These suit the tabs and columns of the tracker. Nothing runs until you set it up, and each can be changed or
          undone. <Link to={`/t/${tracker.id}/${tracker.tabs[0]?.id ?? "rules"}`}>Go to the rows</Link>
        </Trans>
      </p>
      {all.length === 0 && (
        <p className="quiet">
          <Trans>
            Nothing suggests itself. Start with <Link to={`/t/${tracker.id}/rules`}>a rule</Link> or{" "}
            <Link to={`/t/${tracker.id}/reminders`}>a reminder</Link>.
          </Trans>
        </p>
      )}
      {!may.keep && (
        <p className="quiet">
          <Trans>An admin can set these up.</Trans>
        </p>
      )}
      <FoundOffers tracker={tracker} keep={may.keep} />
      {all.map((s) => (
        <Offer
          key={s.kind.name + s.id}
          tracker={tracker}
          suggestion={s}
          there={names.has(String(s.body.name))}
          keep={may.keep}
        />
      ))}
    </div>
  );
}

function Offer({
  tracker,
  suggestion: s,
  there,
  keep,
}: {
  tracker: Tracker;
  suggestion: Suggestion;
  there: boolean;
  keep: boolean;
}) {
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const [seq, setSeq] = useState<number>();
  const trial = useQuery({
    queryKey: ["try", s.kind.name, tracker.id, "suggested", s.body],
    queryFn: () => tryOut(s.kind, tracker.id, s.body),
    enabled: keep && !there,
  });
  const take = useMutation({
    mutationFn: () => save(s.kind, tracker.id, s.body),
    onSuccess: (set) => {
      setSeq(set.seq);
      void queries.invalidateQueries();
    },
  });
  const undo = useMutation({
    mutationFn: () => ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } })),
    onSuccess: () => {
      setSeq(undefined);
      void queries.invalidateQueries();
    },
    onError: (err) => notification.error({ title: problemOf(err).title, description: problemOf(err).detail }),
  });
  const edit =
    s.kind.name === "rule"
      ? `/t/${tracker.id}/rules/new?from=${encodeURIComponent(s.id)}`
      : `/t/${tracker.id}/reminders/${s.kind.name}/new?from=${encodeURIComponent(s.id)}`;
  return (
    <section className="definition section" aria-label={s.title}>
      <div>
        <h2>{s.title}</h2>
        <p>{s.says}</p>
        {there && (
          <p role="status" className="quiet">
            <Trans>Set up.</Trans>{" "}
            {seq !== undefined && (
              <Button size="small" aria-label={t`Undo ${s.title}`} onClick={() => undo.mutate()}>
                {t`Undo`}
              </Button>
            )}
          </p>
        )}
        {!there && trial.data && (
          <details>
            <summary>
              {trial.data.matched === undefined
                ? t`What it does`
                : t`Matches ${plural(trial.data.matched, { one: "# row", other: "# rows" })} now`}
            </summary>
            <p className="quiet">
              <Sentence text={trial.data.says} />
            </p>
            <Matches tracker={tracker.id} tried={trial.data} />
          </details>
        )}
        {trial.isError && !there && <ProblemNote error={trial.error} />}
        {take.isError && <ProblemNote error={take.error} />}
      </div>
      {keep && !there && (
        <div className="definition-acts">
          <Link to={edit}>
            <Trans>Change first</Trans>
          </Link>
          <Button
            type="primary"
            size="small"
            loading={take.isPending}
            disabled={trial.isError}
            aria-label={t`Set up ${s.title}`}
            onClick={() => take.mutate()}
          >
            {t`Set up`}
          </Button>
        </div>
      )}
    </section>
  );
}
