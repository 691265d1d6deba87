// The rules of a tracker, each as a sentence, with what it would change now and a way to let
// it run.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Modal } from "antd";
import { useState, type HTMLAttributes, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, problemOf, type ChangeSet, type Definition, type Scheduled } from "../api/client";
import { useBeginnings } from "../automation/Beginnings";
import { kinds } from "../automation/kinds";
import { draftName, type Draft } from "../automation/useDraft";
import { Changes } from "../parts/Changes";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useTrackers } from "../parts/queries";
import { Sentence } from "../parts/Sentence";
import { OrderHandle } from "../parts/OrderHandle";
import { whenThere } from "../parts/time";
import { useKept } from "../parts/useKept";
import { useOrder } from "../parts/useOrder";
import { beginnings } from "./beginnings";
import "../automation/automation.css";

export default function RulesPage() {
  const { tracker = "" } = useParams();
  const may = useMay(tracker);
  const navigate = useNavigate();
  const trackers = useTrackers();
  const rules = useQuery({
    queryKey: ["rules", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/rules", { params: { path: { tracker } } })),
  });
  const schedule = useQuery({
    queryKey: ["schedule", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/schedule", { params: { path: { tracker } } })),
  });
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const put = useMutation({
    mutationFn: (first: string[]) =>
      ask(
        api.POST("/api/v1/trackers/{tracker}/order", { params: { path: { tracker } }, body: { kind: "rule", first } }),
      ),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["rules", tracker] }),
    onError: (err) =>
      notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 }),
  });
  const all = rules.data ?? [];
  const order = useOrder(all, (to) => {
    queries.setQueryData(["rules", tracker], to);
    put.mutate(to.map((r) => r.id));
  });
  const here = trackers.data?.find((one) => one.id === tracker || one.name === tracker);
  const { button, offers } = useBeginnings({
    keep: may.keep && here !== undefined,
    none: rules.data && rules.data.length === 0,
    create: t`New rule`,
    primary: true,
    nothing: t`No rules yet. Choose how to begin:`,
    barred: t`No rules yet. An admin can create one.`,
    from: here ? beginnings(here) : [],
    onChoose: (id) => void navigate(`/t/${tracker}/rules/new?from=${id}`),
  });
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Rules</Trans>
        </h1>
        <span className="quiet">
          <Trans>what moves, marks and files rows by itself</Trans>
        </span>
        <span style={{ flex: 1 }} />
        {button}
      </header>
      {rules.isError && <ProblemNote error={rules.error} />}
      {offers}
      {all.map((r, i) => {
        const { entry, handle } = order(i);
        return (
          <RuleLine
            key={r.id}
            tracker={tracker}
            zone={here?.zone ?? "UTC"}
            rule={r}
            scheduled={schedule.data?.find((s) => s.id === r.id)}
            entry={entry}
            handle={may.keep && all.length > 1 ? <OrderHandle label={t`Move ${r.name}`} {...handle} /> : undefined}
          />
        );
      })}
      {may.keep && all.length > 1 && (
        <p className="quiet">
          <Trans>Rules that the same edit starts run in this order. Drag to change it.</Trans>
        </p>
      )}
    </div>
  );
}

type LineProps = {
  tracker: string;
  zone: string;
  rule: Definition;
  scheduled?: Scheduled;
  entry: HTMLAttributes<HTMLElement>;
  handle?: ReactNode;
};

function RuleLine({ tracker, zone, rule, scheduled, entry, handle }: LineProps) {
  const may = useMay(tracker);
  return (
    <section className="definition" aria-label={rule.name} {...entry}>
      <div>
        {handle}
        {may.keep ? (
          <Link to={`/t/${tracker}/rules/${rule.id}`}>
            <strong>{rule.name}</strong>
          </Link>
        ) : (
          <strong>{rule.name}</strong>
        )}{" "}
        {rule.paused && (
          <span className="soon">
            <Trans>paused</Trans>
          </span>
        )}{" "}
        {rule.watching && (
          <span className="soon">
            <Trans>dry run</Trans>
          </span>
        )}
        <div>
          <Sentence text={rule.says} />
        </div>
        {typeof rule.body.remark === "string" && <div className="quiet">{rule.body.remark}</div>}
        <Ran tracker={tracker} zone={zone} scheduled={scheduled} />
      </div>
      {may.edit && <RunButtons tracker={tracker} rule={rule} />}
    </section>
  );
}

function Ran({ tracker, zone, scheduled }: { tracker: string; zone: string; scheduled?: Scheduled }) {
  if (!scheduled) return null;
  const { last, next } = scheduled;
  return (
    <div className="quiet definition-when">
      {last && (
        <span>
          <Trans>
            Last run:{" "}
            <Link to={`/t/${tracker}/runs/${last.run}`} className={fine.includes(last.outcome) ? undefined : "late"}>
              {last.outcome}
            </Link>
            , {whenThere(last.at, zone)}
          </Trans>
        </span>
      )}
      {next && (
        <span>
          <Trans>Next: {whenThere(next, zone)}</Trans>
        </span>
      )}
    </div>
  );
}

const fine = ["done", "nothing to do"];

function run(tracker: string, rule: Definition, preview: boolean): Promise<ChangeSet> {
  const params = { path: { tracker, definition: rule.id }, query: preview ? { preview: "yes" as const } : {} };
  return ask(api.POST("/api/v1/trackers/{tracker}/rules/{definition}/run", { params }));
}

function RunButtons({ tracker, rule }: { tracker: string; rule: Definition }) {
  const may = useMay(tracker);
  const [preview, setPreview] = useState<ChangeSet>();
  const { notification } = App.useApp();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const tell = (err: unknown) =>
    notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 });
  const look = useMutation({ mutationFn: () => run(tracker, rule, true), onSuccess: setPreview, onError: tell });
  const go = useMutation({
    mutationFn: () => run(tracker, rule, false),
    onSuccess: (set) => {
      setPreview(undefined);
      void queries.invalidateQueries();
      if (set.run) void navigate(`/t/${tracker}/runs/${set.run}`);
    },
    onError: tell,
  });
  const pause = useMutation({
    mutationFn: () => {
      const params = { path: { tracker, definition: rule.id } };
      return rule.paused
        ? ask(api.POST("/api/v1/trackers/{tracker}/rules/{definition}/resume", { params }))
        : ask(api.POST("/api/v1/trackers/{tracker}/rules/{definition}/pause", { params }));
    },
    onSuccess: () => void queries.invalidateQueries(),
    onError: tell,
  });
  const copy = useKept<Draft>(draftName(kinds.rule, tracker, "new copy"));
  const changes = preview?.changes.length ?? 0;
  return (
    <div className="definition-acts">
      {may.keep && (
        <>
          <Button
            size="small"
            aria-label={t`Copy ${rule.name}`}
            onClick={() => {
              copy.write({ body: { ...rule.body, name: t`${rule.name}, copy` } });
              void navigate(`/t/${tracker}/rules/new?from=copy`);
            }}
          >
            {t`Copy`}
          </Button>
          <Button
            size="small"
            loading={pause.isPending}
            aria-label={rule.paused ? t`Resume ${rule.name}` : t`Pause ${rule.name}`}
            onClick={() => pause.mutate()}
          >
            {rule.paused ? t`Resume` : t`Pause`}
          </Button>
        </>
      )}
      <Button size="small" loading={look.isPending} onClick={() => look.mutate()} aria-label={t`Preview ${rule.name}`}>
        {t`Preview`}
      </Button>
      <Modal
        open={preview !== undefined}
        title={t`What ${rule.name} would change now`}
        width={900}
        okText={t`Apply ${plural(changes, { one: "# change", other: "# changes" })}`}
        okButtonProps={{ disabled: changes === 0, loading: go.isPending }}
        onOk={() => go.mutate()}
        onCancel={() => setPreview(undefined)}
      >
        {preview && changes === 0 && (
          <p>
            <Trans>No changes needed.</Trans>
          </p>
        )}
        {preview && changes > 0 && <Changes changes={preview.changes} more={preview.more} />}
        {preview?.passed_over.map((p) => (
          <div key={p.row} className="soon">
            <Trans>
              Skipped: {p.label} in {p.tab}: {p.why}
            </Trans>
          </div>
        ))}
      </Modal>
    </div>
  );
}
