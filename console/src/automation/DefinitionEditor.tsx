// What the editors of rules, reminders and rounds have in common: a draft that this window
// keeps until it is saved, the text form, what is missing, saving past nobody, undo, and
// beside it what it would do.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient, type UseQueryResult } from "@tanstack/react-query";
import { App, Button, ConfigProvider, Modal, Segmented } from "antd";
import { useEffect, useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, type ChangeSet, type Definition, type Tracker, type Tried } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { Sentence } from "../parts/Sentence";
import { useSettled } from "../parts/useSettled";
import { DefinitionText } from "./DefinitionText";
import { HistoryOf } from "./HistoryOf";
import { NextTimes } from "./NextTimes";
import * as service from "./kinds";
import type { Body, Kind } from "./kinds";
import "./automation.css";

const rest = 40; // milliseconds without a change before it is tried

export type Parts = { body: Body; setBody: (body: Body) => void };
export type Beside = Parts & { complete: boolean; trial: UseQueryResult<Tried>; replaces?: string };

type Props = {
  kind: Kind;
  tracker: Tracker;
  saved?: Definition;
  begin: Body; // of a new one
  keep: string; // under what a new one's draft is kept
  missing: (body: Body) => string[];
  children: (parts: Parts) => ReactNode;
  beside: (parts: Beside) => ReactNode;
};

export function DefinitionEditor({ kind, tracker, saved, begin, keep, missing, children, beside }: Props) {
  const called = kind.called;
  const under = `kavlo ${kind.name} ${tracker.id} ${saved?.id ?? keep}`;
  const [body, setBody] = useState<Body>(() => {
    const kept = window.sessionStorage.getItem(under);
    return kept ? (JSON.parse(kept) as Body) : (saved?.body ?? begin);
  });
  const [asText, setAsText] = useState(false);
  const [theirs, setTheirs] = useState<Definition>();
  const may = useMay(tracker.id);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const same = saved !== undefined && JSON.stringify(body) === JSON.stringify(saved.body);
  useEffect(() => {
    if (same) window.sessionStorage.removeItem(under);
    else window.sessionStorage.setItem(under, JSON.stringify(body));
  }, [body, under, same]);
  const lacks = missing(body);
  const complete = lacks.length === 0;
  const settled = useSettled(body, rest);
  const trial = useQuery({
    queryKey: ["try", kind.name, tracker.id, saved?.id, settled],
    queryFn: () => service.tryOut(kind, tracker.id, settled, saved?.id),
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
    window.sessionStorage.removeItem(under);
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
    mutationFn: async (over: boolean) => {
      if (saved && !over) {
        const now = await service.get(kind, tracker.id, saved.id);
        if (JSON.stringify(now.body) !== JSON.stringify(saved.body)) {
          setTheirs(now);
          return undefined;
        }
      }
      return service.save(kind, tracker.id, body, saved?.id);
    },
    onSuccess: (set) => set && done(set, t`Saved ${called} ${name}`),
  });
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
        {!same && (
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
          {save.isError && <ProblemNote error={save.error} />}
          {drop.isError && <ProblemNote error={drop.error} />}
          <div className="definition-save">
            <Button
              type="primary"
              disabled={same || !complete || !may.keep}
              loading={save.isPending}
              onClick={() => save.mutate(false)}
            >
              {t`Save`}
            </Button>
            {!same && <Button onClick={() => (saved ? setBody(saved.body) : leave())}>{t`Discard changes`}</Button>}
            {saved && may.keep && (
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
          {saved && <HistoryOf kind={kind} tracker={tracker.id} definition={saved.id} />}
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
              {!trial.isError && beside({ body, setBody, complete, trial, replaces: saved?.id })}
            </>
          ) : (
            <p className="quiet">
              <Trans>What it would do appears here once nothing is missing.</Trans>
            </p>
          )}
        </aside>
      </div>
      <Modal
        open={theirs !== undefined}
        title={t`Someone else changed this ${called}`}
        onCancel={() => setTheirs(undefined)}
        footer={
          <>
            <Button
              onClick={() => {
                if (theirs) {
                  queries.setQueryData([kind.name, tracker.id, theirs.id], theirs);
                  setBody(theirs.body);
                }
                setTheirs(undefined);
              }}
            >
              {t`Use theirs`}
            </Button>
            <Button onClick={() => setTheirs(undefined)}>{t`Keep editing`}</Button>
            <Button
              type="primary"
              onClick={() => {
                setTheirs(undefined);
                save.mutate(true);
              }}
            >
              {t`Save mine`}
            </Button>
          </>
        }
      >
        <h3>
          <Trans>Theirs</Trans>
        </h3>
        <p>
          <Sentence text={theirs?.says} />
        </p>
        <h3>
          <Trans>Mine</Trans>
        </h3>
        <p>
          <Sentence text={trial.data?.says} />
        </p>
      </Modal>
    </div>
  );
}
