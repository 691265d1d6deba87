// The forms of a tracker, to be filled in; whoever keeps the tracker makes and closes
// private links to them.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, InputNumber, Popconfirm, Typography } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, fileBody, problemOf, type FormName } from "../api/client";
import { useBeginnings } from "../automation/Beginnings";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { usePeople, useTracker, useWhen } from "../parts/queries";
import { formBeginnings } from "./beginnings";
import "../automation/automation.css";
import { EntryForm } from "./EntryForm";

export default function FormsPage() {
  const { tracker = "", form } = useParams();
  const may = useMay(tracker);
  const navigate = useNavigate();
  const forms = useQuery({
    queryKey: ["forms", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/entry-forms", { params: { path: { tracker } } })),
  });
  const here = useTracker(tracker);
  const { button, offers } = useBeginnings({
    keep: may.keep && here !== undefined,
    none: forms.data && forms.data.length === 0,
    create: t`New form`,
    nothing: t`No forms yet. Choose how to begin:`,
    barred: t`No forms yet. An admin can create one.`,
    from: here ? formBeginnings(here) : [],
    onChoose: (id) => void navigate(`/t/${tracker}/forms/new/edit?from=${encodeURIComponent(id)}`),
  });
  if (form) return <OneForm tracker={tracker} form={form} />;
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Forms</Trans>
        </h1>
        <span className="quiet">
          <Trans>rows added by people who fill in a form</Trans>
        </span>
        <span style={{ flex: 1 }} />
        {button}
      </header>
      {forms.isError && <ProblemNote error={forms.error} />}
      {offers}
      {forms.data?.map((f) => (
        <FormCard key={f.id} tracker={tracker} form={f} />
      ))}
    </div>
  );
}

function FormCard({ tracker, form }: { tracker: string; form: FormName }) {
  const may = useMay(tracker);
  return (
    <section className="section" aria-label={form.name}>
      <h2>
        <Link to={`/t/${tracker}/forms/${form.id}`}>{form.name}</Link>{" "}
        {may.keep && (
          <Link className="edit-link" to={`/t/${tracker}/forms/${form.id}/edit`}>
            <Trans>Edit</Trans>
          </Link>
        )}
      </h2>
      <p className="quiet">{form.says}</p>
      {may.keep && <Links tracker={tracker} form={form.id} />}
    </section>
  );
}

function Links({ tracker, form }: { tracker: string; form: string }) {
  const when = useWhen();
  const params = { path: { tracker, definition: form } };
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const [days, setDays] = useState<number | null>(14);
  const open = useQuery({
    queryKey: ["form links", tracker, form],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/forms/{definition}/links", { params })),
  });
  const again = () => void queries.invalidateQueries({ queryKey: ["form links", tracker, form] });
  const failed = (err: unknown) =>
    notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 });
  const make = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/v1/trackers/{tracker}/forms/{definition}/links", { params, body: { days: days ?? 0 } })),
    onSuccess: again,
    onError: failed,
  });
  const close = useMutation({
    mutationFn: () => ask(api.DELETE("/api/v1/trackers/{tracker}/forms/{definition}/links", { params })),
    onSuccess: () => {
      make.reset();
      again();
    },
    onError: failed,
  });
  const n = open.data?.length ?? 0;
  const newest = open.data?.[0];
  return (
    <>
      <div className="form-links">
        <Button onClick={() => make.mutate()} loading={make.isPending}>
          {t`Make a private link`}
        </Button>
        <label>
          <Trans>
            for{" "}
            <InputNumber
              min={1}
              max={3650}
              value={days}
              onChange={setDays}
              placeholder={t`ever`}
              style={{ width: 72 }}
            />{" "}
            days
          </Trans>
        </label>
        {n > 0 && (
          <Popconfirm
            title={t`Close ${plural(n, { one: "# private link", other: "# private links" })}? Whoever has one can no longer fill in the form.`}
            okText={t`Close them`}
            onConfirm={() => close.mutate()}
          >
            <Button danger>{t`Close ${plural(n, { one: "# link", other: "# links" })}`}</Button>
          </Popconfirm>
        )}
        {newest && (
          <span className="quiet">
            <Trans>
              the last of {when(newest.made, tracker)}
              {newest.expires && t`, until ${when(newest.expires, tracker)}`}
            </Trans>
          </span>
        )}
      </div>
      {make.data?.link && (
        <p role="status">
          <Trans>
            Copy it now; it is not shown again: <Typography.Text copyable>{make.data.link}</Typography.Text>
          </Trans>
        </p>
      )}
    </>
  );
}

function OneForm({ tracker, form }: { tracker: string; form: string }) {
  const params = { path: { tracker, definition: form } };
  const people = usePeople().data ?? [];
  const queries = useQueryClient();
  const shown = useQuery({
    queryKey: ["form", tracker, form],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/forms/{definition}/fields", { params })),
  });
  return (
    <div className="page">
      <p>
        <Link to={`/t/${tracker}/forms`}>
          <Trans>Forms</Trans>
        </Link>
      </p>
      {shown.isError && <ProblemNote error={shown.error} />}
      {shown.data && (
        <>
          <header>
            <h1>{shown.data.name}</h1>
          </header>
          <EntryForm
            form={shown.data}
            people={people}
            keep={`form ${form}`}
            keepFile={(column, file) =>
              ask(
                api.POST("/api/v1/trackers/{tracker}/forms/{definition}/attachments", {
                  params: { ...params, query: { field: column.id, name: file.name } },
                  ...fileBody(file),
                }),
              )
            }
            send={async (cells, key) => {
              const received = await ask(
                api.POST("/api/v1/trackers/{tracker}/forms/{definition}/entries", {
                  params: { ...params, header: { "Idempotency-Key": key } },
                  body: { cells },
                }),
              );
              void queries.invalidateQueries();
              return received;
            }}
          />
        </>
      )}
    </div>
  );
}
