// All that keeps a tracker current, each as a sentence, with what it would do
// now and a way to let it run.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Modal } from "antd";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ask, problemOf, type ChangeSet, type Definition } from "../api/client";
import { Changes } from "../parts/Changes";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { Sentence } from "../parts/Sentence";
import { plural } from "../parts/text";
import { RuleEditor } from "./RuleEditor";

export default function RulesPage() {
  const { tracker = "" } = useParams();
  const path = { params: { path: { tracker } } };
  const may = useMay(tracker);
  const [editing, setEditing] = useState<Definition | "new">();
  const rules = useQuery({
    queryKey: ["rules", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/rules", path)),
  });
  const reminders = useQuery({
    queryKey: ["reminders", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/reminders", path)),
  });
  const rounds = useQuery({
    queryKey: ["rounds", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/rounds", path)),
  });
  const groups = [
    {
      title: "Rules",
      found: rules,
      none: "No rule yet: what people keep in the head can be loaded with a setup file.",
    },
    { title: "Reminders", found: reminders, none: "No reminder says which rows somebody must be told about." },
    { title: "Rounds", found: rounds, none: "No round writes to anybody." },
  ];
  return (
    <div className="page">
      <header>
        <h1>Rules</h1>
        <span className="quiet">what moves, marks and reminds by itself</span>
        <span style={{ flex: 1 }} />
        {may.keep && <Button onClick={() => setEditing("new")}>New rule</Button>}
      </header>
      {groups.map((g) => (
        <section key={g.title} className="section">
          <h2>{g.title}</h2>
          {g.found.isError && <ProblemNote error={g.found.error} />}
          {g.found.data?.length === 0 && <p className="quiet">{g.none}</p>}
          {g.found.data?.map((p) => (
            <DefinitionLine key={p.id} tracker={tracker} definition={p} onEdit={() => setEditing(p)} />
          ))}
        </section>
      ))}
      {editing && (
        <RuleEditor
          tracker={tracker}
          rule={editing === "new" ? undefined : editing}
          onClose={() => setEditing(undefined)}
        />
      )}
    </div>
  );
}

function DefinitionLine({
  tracker,
  definition,
  onEdit,
}: {
  tracker: string;
  definition: Definition;
  onEdit: () => void;
}) {
  const may = useMay(tracker);
  return (
    <div style={{ display: "flex", gap: 16, alignItems: "baseline", padding: "5px 0" }}>
      <div style={{ flex: 1, minWidth: 0 }}>
        <strong>{definition.name}</strong> {definition.paused && <span className="soon">paused</span>}
        {definition.watching && <span className="soon">watching only</span>}
        <div>
          <Sentence text={definition.says} />
        </div>
        {typeof definition.body.remark === "string" && <div className="quiet">{definition.body.remark}</div>}
      </div>
      {definition.kind === "rule" && may.keep && (
        <Button size="small" onClick={onEdit} aria-label={`Edit ${definition.name}`}>
          Edit
        </Button>
      )}
      {definition.kind === "rule" && may.edit && <RunButtons tracker={tracker} definition={definition} />}
      {definition.kind === "round" && may.edit && <SendRound tracker={tracker} definition={definition} />}
    </div>
  );
}

function run(tracker: string, definition: Definition, preview: boolean): Promise<ChangeSet> {
  const params = { path: { tracker, definition: definition.id }, query: preview ? { preview: "yes" as const } : {} };
  return ask(api.POST("/api/v1/trackers/{tracker}/rules/{definition}/run", { params }));
}

function RunButtons({ tracker, definition }: { tracker: string; definition: Definition }) {
  const may = useMay(tracker);
  const [preview, setPreview] = useState<ChangeSet>();
  const { notification } = App.useApp();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const tell = (err: unknown) =>
    notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 });
  const look = useMutation({ mutationFn: () => run(tracker, definition, true), onSuccess: setPreview, onError: tell });
  const go = useMutation({
    mutationFn: () => run(tracker, definition, false),
    onSuccess: (set) => {
      setPreview(undefined);
      void queries.invalidateQueries();
      if (set.run) void navigate(`/t/${tracker}/runs/${set.run}`);
    },
    onError: tell,
  });
  const pause = useMutation({
    mutationFn: () => {
      const params = { path: { tracker, definition: definition.id } };
      return definition.paused
        ? ask(api.POST("/api/v1/trackers/{tracker}/rules/{definition}/resume", { params }))
        : ask(api.POST("/api/v1/trackers/{tracker}/rules/{definition}/pause", { params }));
    },
    onSuccess: () => void queries.invalidateQueries(),
    onError: tell,
  });
  return (
    <>
      {may.keep && (
        <Button size="small" loading={pause.isPending} onClick={() => pause.mutate()}>
          {definition.paused ? "Resume" : "Pause"}
        </Button>
      )}
      <Button size="small" loading={look.isPending} onClick={() => look.mutate()}>
        What it would do
      </Button>
      <Modal
        open={preview !== undefined}
        title={`What ${definition.name} would do now`}
        width={900}
        okText={`Do it: ${plural(preview?.changes.length ?? 0, "change")}`}
        okButtonProps={{ disabled: preview?.changes.length === 0, loading: go.isPending }}
        onOk={() => go.mutate()}
        onCancel={() => setPreview(undefined)}
      >
        {preview?.changes.length === 0 && <p>Nothing to change: all is as it should be.</p>}
        {preview && preview.changes.length > 0 && <Changes changes={preview.changes} more={preview.more} />}
        {preview?.passed_over.map((p) => (
          <div key={p.row} className="soon">
            Passed over: {p.label} in {p.tab}: {p.why}
          </div>
        ))}
      </Modal>
    </>
  );
}

function SendRound({ tracker, definition }: { tracker: string; definition: Definition }) {
  const { notification } = App.useApp();
  const navigate = useNavigate();
  const send = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/v1/trackers/{tracker}/rounds/{definition}/run", {
          params: { path: { tracker, definition: definition.id } },
        }),
      ),
    onSuccess: (r) => {
      const says =
        r.queued > 0
          ? `${plural(r.queued, "mail")} on the way.`
          : r.already > 0
            ? "Everybody has had this round's mail."
            : "There is nothing to say, so nobody gets a mail.";
      notification.info({ title: definition.name, description: says });
      if (r.queued > 0) void navigate("/mail");
    },
    onError: (err) => notification.error({ title: problemOf(err).title, description: problemOf(err).detail }),
  });
  return (
    <Button size="small" loading={send.isPending} onClick={() => send.mutate()}>
      Send now
    </Button>
  );
}
