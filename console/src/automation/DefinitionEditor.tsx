// What the editors of rules, reminders and rounds have in common: a draft that this window
// keeps until it is saved, the text form, what is missing, saving past nobody, undo, and
// beside it what it would do.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient, type UseQueryResult } from "@tanstack/react-query";
import { Alert, App, Button, ConfigProvider, Segmented } from "antd";
import { useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, problemOf, type ChangeSet, type Definition, type Tracker, type Tried } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { Sentence } from "../parts/Sentence";
import { useSettled } from "../parts/useSettled";
import { ChangedMeanwhile } from "./ChangedMeanwhile";
import { DefinitionText } from "./DefinitionText";
import { HistoryOf } from "./HistoryOf";
import { NextTimes } from "./NextTimes";
import * as service from "./kinds";
import type { Body, Kind } from "./kinds";
import { draftName, useDraft } from "./useDraft";
import "./automation.css";

// overtook says whether somebody else's change came first.
const overtook = (err: unknown) => problemOf(err).status === 412;

const rest = 40; // milliseconds without a change before it is tried

export type Parts = { body: Body; setBody: (body: Body) => void };
export type Beside = Parts & { complete: boolean; trial: UseQueryResult<Tried>; replaces?: string };

type Props = {
  kind: Kind;
  tracker: Tracker;
  saved?: Definition;
  gone: boolean; // what was saved has been deleted since
  begin: Body; // of a new one
  keep: string; // under what a new one's draft is kept
  missing: (body: Body) => string[];
  children: (parts: Parts) => ReactNode;
  beside: (parts: Beside) => ReactNode;
};

export function DefinitionEditor({ kind, tracker, saved, gone, begin, keep, missing, children, beside }: Props) {
  const called = kind.called;
  const draft = useDraft(draftName(kind, tracker.id, saved?.id ?? keep), saved, begin);
  const { body, from, changed, setBody } = draft;
  const replaces = gone ? undefined : saved?.id;
  const [asText, setAsText] = useState(false);
  const [theirs, setTheirs] = useState<Definition>();
  const may = useMay(tracker.id);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const lacks = missing(body);
  const complete = lacks.length === 0;
  const settled = useSettled(body, rest);
  const trial = useQuery({
    queryKey: ["try", kind.name, tracker.id, replaces, settled],
    queryFn: () => service.tryOut(kind, tracker.id, settled, replaces),
    enabled: complete && settled === body,
    placeholderData: (before) => before,
  });
  const undo = useMutation({
    mutationFn: (seq: number) => ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } })),
    onSuccess: () => {
      notification.destroy();
      void queries.invalidateQueries();
    },
  });
  const leave = () => {
    draft.forget();
    void navigate(`/t/${tracker.id}/${kind.page}`);
  };
  const done = (set: ChangeSet, says: string) => {
    const seq = set.seq;
    notification.success({
      title: says,
      description: set.warnings?.join(" "),
      actions: seq ? (
        <Button size="small" onClick={() => undo.mutate(seq)}>
          {t`Undo`}
        </Button>
      ) : undefined,
    });
    leave();
    void queries.invalidateQueries();
  };
  const name = typeof body.name === "string" ? body.name : "";
  const save = useMutation({
    mutationFn: (over?: Definition) => service.save(kind, tracker.id, body, gone ? undefined : (over ?? from)),
    onSuccess: (set) => done(set, t`Saved ${called} ${name}`),
    onError: async (err) => {
      if (overtook(err) && saved) setTheirs(await service.get(kind, tracker.id, saved.id));
      await queries.invalidateQueries({ queryKey: [kind.name, tracker.id] });
    },
  });
  // one's own save may be heard of before its answer is here
  const overtaken = saved !== undefined && changed && !save.isPending && from?.version !== saved.version;
  const drop = useMutation({
    mutationFn: () => service.drop(kind, tracker.id, saved?.id ?? ""),
    onSuccess: (set) => done(set, t`Deleted ${called} ${saved?.name ?? ""}`),
  });
  return (
    <div className="page">
      <p>
        <Link to={`/t/${tracker.id}/${kind.page}`}>{kind.title}</Link>
      </p>
      <header>
        <h1>{saved ? saved.name : t`New ${called}`}</h1>
        {(changed || !saved) && (
          <span className="quiet">
            <Trans>not saved yet</Trans>
          </span>
        )}
        <span style={{ flex: 1 }} />
        <Segmented
          size="small"
          value={asText ? "text" : "sentence"}
          options={[
            { value: "sentence", label: t`Sentence` },
            { value: "text", label: t`As text` },
          ]}
          onChange={(v) => setAsText(v === "text")}
        />
      </header>
      <div className="definition-page">
        <div className="definition-edit">
          {asText ? (
            <DefinitionText value={body} onChange={setBody} label={t`The ${called} as text`} rows={14} />
          ) : (
            <ConfigProvider variant="underlined">{children({ body, setBody })}</ConfigProvider>
          )}
          {gone && (
            <Alert
              type="warning"
              showIcon
              title={t`Someone deleted this ${called}. Save adds it again as it stands here.`}
            />
          )}
          {overtaken && !gone && (
            <Alert
              type="warning"
              showIcon
              title={t`Someone else has changed this ${called} since you began.`}
              action={<Button size="small" onClick={() => setTheirs(saved)}>{t`Compare`}</Button>}
            />
          )}
          {save.isError && !overtook(save.error) && <ProblemNote error={save.error} />}
          {drop.isError && <ProblemNote error={drop.error} />}
          <div className="definition-save">
            <Button
              type="primary"
              disabled={!(changed || gone || !saved) || !complete || !may.keep}
              loading={save.isPending}
              onClick={() => save.mutate(undefined)}
            >
              {t`Save`}
            </Button>
            {(changed || !saved) && (
              <Button onClick={() => (saved && !gone ? draft.forget() : leave())}>{t`Discard changes`}</Button>
            )}
            {saved && !gone && may.keep && (
              <Button danger loading={drop.isPending} onClick={() => drop.mutate()}>
                {t`Delete ${called}`}
              </Button>
            )}
            {!complete && (
              <span className="soon">
                <Trans>Missing: {lacks.join(", ")}.</Trans>
              </span>
            )}
          </div>
          {saved && !gone && <HistoryOf kind={kind} tracker={tracker.id} definition={saved.id} />}
        </div>
        <aside className="definition-trial" aria-label={t`What it would do`} aria-busy={trial.isFetching}>
          {complete ? (
            <>
              {trial.isError && <ProblemNote error={trial.error} />}
              {!trial.isError && trial.data && (
                <p>
                  <Sentence text={trial.data.says} />
                </p>
              )}
              {!trial.isError && <NextTimes times={trial.data?.next} zone={tracker.zone} />}
              {!trial.isError && beside({ body, setBody, complete, trial, replaces })}
            </>
          ) : (
            <p className="quiet">
              <Trans>What it would do appears here once nothing is missing.</Trans>
            </p>
          )}
        </aside>
      </div>
      <ChangedMeanwhile
        kind={kind}
        tracker={tracker.id}
        theirs={theirs}
        mine={trial.data?.says}
        onClose={() => setTheirs(undefined)}
        onTheirs={(now) => {
          queries.setQueryData([kind.name, tracker.id, now.id], now);
          draft.forget();
          setTheirs(undefined);
        }}
        onMine={(now) => {
          setTheirs(undefined);
          save.mutate(now);
        }}
      />
    </div>
  );
}
