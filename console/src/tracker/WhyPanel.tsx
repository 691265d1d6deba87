// Why the selected row and cell are as they are: what put them so, when, by
// whom or which rule, and what was there before.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useCallback, useSyncExternalStore } from "react";
import { Link } from "react-router";
import { api, ask, type Column, type Row, type Tab, type Tracker, type Why } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { orBlank, show } from "../parts/text";
import { LookOf, NoteOn } from "./Beside";
import type { Chosen } from "./Grid";
import { countOf, NoteOnAll, placeOf, WhyAll } from "./RangeDetails";
import type { RowStore } from "./rowStore";
import type { Edits } from "./useEdits";
import { useWhen } from "../parts/queries";

type Props = {
  store: RowStore;
  tracker: Tracker;
  tab: Tab;
  row: string;
  column: Column;
  chosen: Chosen;
  columns: Column[]; // of the tab
  edits: Edits;
  onClose: () => void;
};

export function WhyPanel({ store, tracker, tab, row: id, column, chosen, columns, edits, onClose }: Props) {
  const row = useSyncExternalStore(
    useCallback((notify) => store.subscribeRow(id, notify), [store, id]),
    () => store.row(id),
  );
  if (!row) return null;
  const style = !column.read_only && (
    <LookOf key={`look ${placeOf(chosen)}`} row={row} column={column} edits={edits} chosen={chosen} columns={columns} />
  );
  if (chosen.rows.length * chosen.columns.length > 1) {
    const range = { store, tracker, tab, chosen, columns, edits };
    return (
      <aside className="why" aria-label={t`Why`}>
        <PanelHead title={countOf(chosen)} onClose={onClose} />
        <NoteOnAll key={`note ${placeOf(chosen)}`} {...range} />
        {style}
        <WhyAll {...range} />
      </aside>
    );
  }
  return (
    <aside className="why" aria-label={t`Why`}>
      <PanelHead title={row.label} onClose={onClose} />
      <p className="quiet">
        <Trans>
          row {row.id}, in {row.tab}
        </Trans>
      </p>
      <PagesOf tracker={tracker} row={row} />
      <Chain
        tracker={tracker}
        row={row}
        column={column.name}
        title={t`Why ${column.name} is ${orBlank(row.cells[column.name])}`}
      />
      <Chain tracker={tracker} row={row} title={t`Why it is in ${row.tab}`} />
      <NoteOn key={`note ${row.id} ${column.id}`} tracker={tracker} row={row} column={column} edits={edits} />
      {style}
      {row.carried && (
        <section>
          <h3>
            <Trans>Values not shown in this tab</Trans>
          </h3>
          <ul className="plain">
            {Object.entries(row.carried).map(([name, v]) => (
              <li key={name}>
                <span className="quiet">{name}:</span> {show(v)}
              </li>
            ))}
          </ul>
        </section>
      )}
      <History tracker={tracker} row={row} />
    </aside>
  );
}

function PanelHead({ title, onClose }: { title: string; onClose: () => void }) {
  return (
    <header>
      <h2>{title}</h2>
      <Button size="small" type="text" onClick={onClose} aria-label={t`Close`}>
        ✕
      </Button>
    </header>
  );
}

// PagesOf leads to the pages of a row.
function PagesOf({ tracker, row }: { tracker: Tracker; row: Row }) {
  const pages = useQuery({
    queryKey: ["pages", tracker.id, "row", row.id],
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/pages", {
          params: { path: { tracker: tracker.id }, query: { row: row.id } },
        }),
      ),
  });
  if (!pages.data || pages.data.length === 0) return null;
  return (
    <p>
      {pages.data.map((p) => (
        <Link key={p.pattern_id} to={`/t/${p.tracker}/pages/${p.pattern_id}/${p.row}`}>
          {p.pattern}: {p.title}
        </Link>
      ))}
    </p>
  );
}

// ofOlder goes on showing what is said of an older version of the same row until the new is
// there, so that what stands below does not jump.
function ofOlder(same: unknown[]) {
  return <T,>(before: T, query?: { queryKey: readonly unknown[] }) =>
    same.every((part, i) => query?.queryKey[i] === part) ? before : undefined;
}

function path(tracker: Tracker, row: Row) {
  return { tracker: tracker.id, tab: row.tab_id, row: row.id };
}

function Chain({ tracker, row, column, title }: { tracker: Tracker; row: Row; column?: string; title: string }) {
  const why = useQuery({
    queryKey: ["why", row.id, column, row.version],
    placeholderData: ofOlder(["why", row.id, column]),
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows/{row}/why", {
          params: { path: path(tracker, row), query: { column } },
        }),
      ),
  });
  return (
    <section>
      <h3>{title}</h3>
      {why.isError && <ProblemNote error={why.error} />}
      {why.data && <Links tracker={tracker} why={why.data} />}
    </section>
  );
}

function Links({ tracker, why }: { tracker: Tracker; why: Why }) {
  const when = useWhen();
  const last = why.chain.at(-1);
  if (!last)
    return (
      <p className="quiet">
        <Trans>Nothing has changed it yet.</Trans>
      </p>
    );
  return (
    <>
      <ol className="why-chain">
        {why.chain.map((l) => (
          <li key={l.says}>{l.says}</li>
        ))}
      </ol>
      <p className="quiet">
        <Trans>
          {when(last.at, tracker.id)} by {last.who}
        </Trans>
        {last.run && (
          <>
            ,{" "}
            <Link to={`/t/${tracker.id}/runs/${last.run}`}>
              <Trans>the run</Trans>
            </Link>
          </>
        )}
      </p>
    </>
  );
}

function History({ tracker, row }: { tracker: Tracker; row: Row }) {
  const when = useWhen();
  const history = useQuery({
    queryKey: ["history", row.id, row.version],
    placeholderData: ofOlder(["history", row.id]),
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows/{row}/history", { params: { path: path(tracker, row) } }),
      ),
  });
  return (
    <section>
      <h3>
        <Trans>History</Trans>
      </h3>
      {history.isError && <ProblemNote error={history.error} />}
      <ul className="plain why-history">
        {history.data?.map((h) => (
          <li key={h.seq}>
            <span className="quiet">
              {when(h.at, tracker.id)}, {h.who}
              {h.undoes ? t`, taking back` : ""}
            </span>
            <div>{h.says}</div>
          </li>
        ))}
      </ul>
      <Link to={`/t/${tracker.id}/runs?show=changes&row=${row.id}`}>
        <Trans>All changes of this row</Trans>
      </Link>
    </section>
  );
}
