// The pages of a tracker's rows, kind by kind: found by name, opened for rows that have
// none, closed.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, InputNumber, Table } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, ask, problemOf, type ChangeSet, type Definition, type PageRef } from "../api/client";
import { useBeginnings } from "../automation/Beginnings";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { Sentence } from "../parts/Sentence";
import { useTracker } from "../parts/queries";
import { bookAt } from "./address";
import { pageBeginnings } from "./beginnings";
import "../automation/automation.css";
import "./pages.css";

export default function PagesPage() {
  const { tracker = "" } = useParams();
  const [search] = useSearchParams();
  const may = useMay(tracker);
  const navigate = useNavigate();
  const patterns = useQuery({
    queryKey: ["dossiers", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/dossiers", { params: { path: { tracker } } })),
  });
  const wanted = search.get("pattern");
  const here = useTracker(tracker);
  const { button, offers } = useBeginnings({
    keep: may.keep && here !== undefined,
    none: patterns.data && patterns.data.length === 0,
    create: t`New kind of page`,
    nothing: t`No pages yet. Choose how to begin:`,
    barred: t`No pages yet. An admin can create them.`,
    from: here ? pageBeginnings(here) : [],
    onChoose: (id) => void navigate(`/t/${tracker}/patterns/new?from=${encodeURIComponent(id)}`),
  });
  const shown = patterns.data?.filter((p) => !wanted || p.id === wanted) ?? [];
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Pages</Trans>
        </h1>
        <span className="quiet">
          <Trans>a page for each row, with its facts, figures and log</Trans>
        </span>
        {wanted && (
          <Link to={`/t/${tracker}/pages`}>
            <Trans>All kinds of page</Trans>
          </Link>
        )}
        <span style={{ flex: 1 }} />
        {button}
      </header>
      {patterns.isError && <ProblemNote error={patterns.error} />}
      {offers}
      {shown.map((p) => (
        <Kind key={p.id} tracker={tracker} pattern={p} />
      ))}
    </div>
  );
}

type Opened = { opened: number; closed: number; there: number; left: number; skipped: number };

function Kind({ tracker, pattern }: { tracker: string; pattern: Definition }) {
  const may = useMay(tracker);
  const queries = useQueryClient();
  const { modal, notification } = App.useApp();
  const [typed, setTyped] = useState("");
  const [limit, setLimit] = useState<number | null>(null);
  const [marked, setMarked] = useState<React.Key[]>([]);
  const pages = useQuery({
    queryKey: ["pages", tracker, pattern.id],
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/pages", {
          params: { path: { tracker }, query: { pattern: pattern.id } },
        }),
      ),
  });
  const wanted = typed.trim().toLowerCase();
  const found = pages.data?.filter((p) => p.title.toLowerCase().includes(wanted)) ?? [];
  const send = (what: "open" | "close", rows: string[], preview: boolean) => {
    const params = {
      path: { tracker, definition: pattern.id },
      query: { preview: preview ? ("yes" as const) : ("no" as const) },
    };
    return ask(
      what === "open"
        ? api.POST("/api/v1/trackers/{tracker}/dossiers/{definition}/open", {
            params,
            body: { ...(limit ? { limit } : {}) },
          })
        : api.POST("/api/v1/trackers/{tracker}/dossiers/{definition}/close", { params, body: { rows } }),
    );
  };
  const says = (set: ChangeSet, done: boolean) => {
    const o = set.detail as Opened;
    if (o.closed > 0)
      return `${plural(o.closed, { one: "# page", other: "# pages" })} ${done ? t`closed` : t`will be closed, with their logs`}.`;
    const rest = [
      t`${plural(o.there, { one: "# row", other: "# rows" })} had one`,
      ...(o.left > 0 ? [t`${o.left} left for another time`] : []),
      ...(o.skipped > 0 ? [t`${o.skipped} skipped because of odd cells`] : []),
    ].join(", ");
    return `${plural(o.opened, { one: "# page", other: "# pages" })} ${done ? t`opened` : t`will be opened`}; ${rest}.`;
  };
  const undo = useMutation({
    mutationFn: (seq: number) => ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } })),
    onSuccess: () => void queries.invalidateQueries(),
    onError: (err) => notification.error({ title: problemOf(err).title, description: problemOf(err).detail }),
  });
  const run = useMutation({
    mutationFn: async ({ what, rows }: { what: "open" | "close"; rows: string[] }) => {
      const preview = await send(what, rows, true);
      const o = preview.detail as Opened;
      if (o.opened + o.closed === 0) {
        notification.info({ title: t`No changes needed`, description: says(preview, false) });
        return;
      }
      const yes = await modal.confirm({
        title: what === "open" ? t`Open pages of ${pattern.name}?` : t`Close pages of ${pattern.name}?`,
        content: says(preview, false),
        okText:
          what === "open"
            ? t`Open ${plural(o.opened, { one: "# page", other: "# pages" })}`
            : t`Close ${plural(o.closed, { one: "# page", other: "# pages" })}`,
      });
      if (!yes) return;
      const set = await send(what, rows, false);
      setMarked([]);
      const seq = set.seq ?? 0;
      notification.success({
        title: says(set, true),
        actions: seq > 0 && (
          <Button size="small" onClick={() => undo.mutate(seq)}>
            {t`Undo`}
          </Button>
        ),
      });
    },
    onSettled: () => void queries.invalidateQueries(),
    onError: (err) =>
      notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 }),
  });
  return (
    <section className="section" aria-label={pattern.name}>
      <h2>
        {pattern.name}{" "}
        {may.keep && (
          <Link className="edit-link" to={`/t/${tracker}/patterns/${pattern.id}`}>
            <Trans>Edit</Trans>
          </Link>
        )}
      </h2>
      <p className="quiet">
        <Sentence text={pattern.says} />
      </p>
      <div className="pages-tools">
        <Input.Search
          placeholder={t`Find a page`}
          aria-label={t`Find a page of ${pattern.name}`}
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          style={{ width: 240 }}
        />
        {(pages.data?.length ?? 0) > 0 && (
          <Button href={bookAt(tracker, pattern.id, marked.map(String))}>
            {marked.length > 0
              ? t`Save ${plural(marked.length, { one: "# page", other: "# pages" })} as a workbook`
              : t`Save as a workbook`}
          </Button>
        )}
        {may.edit && (
          <>
            <Button loading={run.isPending} onClick={() => run.mutate({ what: "open", rows: [] })}>
              {t`Open missing pages`}
            </Button>
            <label>
              <Trans>
                at most{" "}
                <InputNumber min={1} value={limit} onChange={setLimit} placeholder={t`all`} style={{ width: 72 }} />
              </Trans>
            </label>
            {marked.length > 0 && (
              <Button danger onClick={() => run.mutate({ what: "close", rows: marked.map(String) })}>
                {t`Close ${plural(marked.length, { one: "# page", other: "# pages" })}`}
              </Button>
            )}
          </>
        )}
      </div>
      {pages.isError && <ProblemNote error={pages.error} />}
      {pages.data?.length === 0 && (
        <p className="quiet">
          <Trans>No pages yet.</Trans>
        </p>
      )}
      {wanted !== "" && found.length === 0 && (pages.data?.length ?? 0) > 0 && (
        <p role="status">
          <Trans>
            No page of {pattern.name} has “{typed.trim()}” in its title.
          </Trans>
        </p>
      )}
      {found.length > 0 && (
        <Table<PageRef>
          size="small"
          rowKey="row"
          pagination={found.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
          dataSource={found}
          rowSelection={{
            selectedRowKeys: marked,
            onChange: setMarked,
            getCheckboxProps: (p) => ({ "aria-label": t`Mark ${p.title}` }) as object,
          }}
          columns={[
            {
              title: t`Page`,
              render: (_, p) => <Link to={`/t/${p.tracker}/pages/${p.pattern_id}/${p.row}`}>{p.title}</Link>,
            },
            {
              title: t`Row in`,
              render: (_, p) =>
                p.archived ? (
                  <span className="quiet">
                    <Trans>archived</Trans>
                  </span>
                ) : (
                  p.in
                ),
            },
          ]}
        />
      )}
    </section>
  );
}
