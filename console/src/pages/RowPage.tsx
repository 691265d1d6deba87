// The page of one row: its facts, which are the row's own cells, what only the page has,
// figures and tables worked out just now, and a log.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Table } from "antd";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask, type ChangeSet, type Page, type Row } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { usePeople, useSession, useTrackers } from "../parts/queries";
import { CellText } from "../tracker/Cell";
import { isNumeric } from "../tracker/format";
import { remarks } from "../tracker/remarks";
import { bookAt } from "./address";
import { LogPanel } from "./LogPanel";
import { PageField } from "./PageField";
import "./pages.css";

export default function RowPage() {
  const { tracker = "", pattern = "", row = "" } = useParams();
  const found = useQuery({
    queryKey: ["page", tracker, pattern, row],
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/pages/{page}", {
          params: { path: { tracker, page: row }, query: { pattern, beside: "yes", fields: "yes" } },
        }),
      ),
    placeholderData: (before) => (before?.row === row ? before : undefined),
  });
  useEffect(() => {
    if (found.data) document.title = `${found.data.title} · Kavlo`;
    return () => {
      document.title = "Kavlo";
    };
  }, [found.data]);
  if (found.isLoadingError) {
    return (
      <div className="page">
        <ProblemNote error={found.error} />
        <p>
          <Link to={`/t/${tracker}/pages`}>
            <Trans>All pages</Trans>
          </Link>
        </p>
      </div>
    );
  }
  if (!found.data)
    return (
      <p className="page quiet">
        <Trans>Loading…</Trans>
      </p>
    );
  return <Shown key={row} page={found.data} wrong={found.error} />;
}

/** Shown keeps what one is typing also where the page, once shown, cannot be had anew. */
function Shown({ page, wrong }: { page: Page; wrong: unknown }) {
  const may = useMay(page.tracker);
  const people = usePeople().data ?? [];
  const session = useSession();
  const trackers = useTrackers().data;
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const [error, setError] = useState<unknown>();
  const names = new Map(people.map((p) => [p.address, p.name]));
  const save = useMutation({
    mutationFn: ({ name, value, keepOdd }: { name: string; value: string; keepOdd?: boolean }) =>
      ask(
        api.PATCH("/api/v1/trackers/{tracker}/pages/{page}", {
          params: { path: { tracker: page.tracker, page: page.row }, query: { pattern: page.pattern_id } },
          body: { cells: { [name]: value }, keep_odd: keepOdd },
        }),
      ),
    onSuccess: (set: ChangeSet) => {
      setError(undefined);
      const said = remarks(set);
      if (said.length > 0) notification.info({ title: t`Check what was read`, description: said.join("; ") });
      void queries.invalidateQueries();
    },
    onError: setError,
  });
  const home = trackers?.find((one) => one.name === page.in_tracker);
  const tab = home?.tabs.find((one) => one.name === page.in);
  const part = (name: "fact" | "own" | "figure") => (page.fields ?? []).filter((f) => f.part === name);
  const fields = (name: "fact" | "own" | "figure") =>
    part(name).map((f) => (
      <PageField
        key={f.name}
        page={page}
        field={f}
        names={names}
        people={people}
        mayEdit={may.edit}
        onSave={async (value) => {
          await save.mutateAsync({ name: f.name, value });
        }}
      />
    ));
  return (
    <article className="page row-page">
      <header>
        <div>
          <p className="row-page-of">
            <Link to={`/t/${page.tracker}/pages?pattern=${page.pattern_id}`}>{page.pattern}</Link>
            {home && tab ? (
              <>
                {" "}
                {t`· row in`}{" "}
                <Link to={`/t/${home.id}/${tab.id}?row=${page.row}`}>
                  {page.in_tracker === trackers?.find((one) => one.id === page.tracker)?.name
                    ? page.in
                    : t`${page.in ?? ""} of ${page.in_tracker ?? ""}`}
                </Link>
              </>
            ) : page.archived ? (
              t` · archived: the row was deleted`
            ) : null}
          </p>
          <h1>{page.title}</h1>
        </div>
        <nav aria-label={t`Pages beside this one`} className="row-page-beside">
          {page.previous && <PageLink to={page.previous} say={t`Previous`} />}
          {page.next && <PageLink to={page.next} say={t`Next`} />}
          <Button href={bookAt(page.tracker, page.pattern_id, [page.row])}>{t`Save as a workbook`}</Button>
          <Button onClick={() => window.print()}>{t`Print`}</Button>
        </nav>
      </header>
      {wrong !== null && <ProblemNote error={wrong} />}
      {error !== undefined && <ProblemNote error={error} />}
      <div className="row-page-parts">
        <section aria-label={t`Facts`}>
          <dl>{fields("fact")}</dl>
          {part("own").length > 0 && <dl className="row-page-own">{fields("own")}</dl>}
        </section>
        {part("figure").length > 0 && (
          <section aria-label={t`Figures`}>
            <dl className="row-page-figures">{fields("figure")}</dl>
          </section>
        )}
      </div>
      {page.tables.map((one) => (
        <section className="section" key={one.name} aria-label={one.name}>
          <h2>
            {one.name}{" "}
            <span className="quiet row-page-count">
              {plural(one.total, { one: "# row", other: "# rows" })}
              {one.rows.length < one.total && t`, the first ${one.rows.length} of them`}
              {(one.skipped ?? 0) > 0 && t`, ${one.skipped ?? 0} skipped because of odd cells`}
            </span>
          </h2>
          {one.rows.length > 0 && (
            <Table
              size="small"
              rowKey="_"
              pagination={false}
              scroll={{ x: true }}
              dataSource={one.rows.map((cells, i) => ({ ...cells, _: one.ids[i] }))}
              columns={one.shown.map((c, i) => ({
                title: c.name,
                align: isNumeric(c) ? ("right" as const) : undefined,
                render: (_: unknown, r: Record<string, unknown>) => {
                  const cell = <CellText row={{ cells: r } as unknown as Row} column={c} names={names} />;
                  if (i > 0) return cell;
                  const named = r[c.name] !== null && r[c.name] !== "";
                  return (
                    <Link to={`/t/${page.tracker}/${one.tab_id}?row=${String(r._)}`}>{named ? cell : String(r._)}</Link>
                  );
                },
              }))}
            />
          )}
        </section>
      ))}
      {page.log_form && (
        <LogPanel
          page={page}
          names={names}
          people={people}
          me={session.data?.person.address}
          mayEdit={may.edit}
          onAdded={() => void queries.invalidateQueries()}
        />
      )}
    </article>
  );
}

function PageLink({ to, say }: { to: NonNullable<Page["next"]>; say: string }) {
  return (
    <Link to={`/t/${to.tracker}/pages/${to.pattern_id}/${to.row}`} title={to.title}>
      {say}: {to.title}
    </Link>
  );
}
