// A tab as it was at a moment, with what differs from now marked.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Checkbox, Input, Select, Table } from "antd";
import { useContext, useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, ask, problemOf, type Row, type Tab, type Tracker } from "../api/client";
import { Writing } from "../parts/writing";
import { ProblemNote } from "../parts/ProblemNote";
import { usePeople, useTrackers } from "../parts/queries";
import { orBlank } from "../parts/text";
import { shown } from "../tracker/format";
import { differences, type Then } from "./differences";

const most = 5000; // rows; of a larger tab the first are compared

export function AsOf({ tracker: name }: { tracker: string }) {
  const trackers = useTrackers();
  const tracker = trackers.data?.find((one) => one.id === name || one.name === name);
  if (!tracker)
    return (
      <p className="quiet">
        <Trans>Loading…</Trans>
      </p>
    );
  return <Chosen tracker={tracker} />;
}

// local writes a moment as a date and time field takes it.
const local = (at: Date) => new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);

function Chosen({ tracker }: { tracker: Tracker }) {
  const [query, setQuery] = useSearchParams();
  const tab = tracker.tabs.find((one) => one.id === query.get("tab")) ?? tracker.tabs[0];
  const [yesterday] = useState(() => local(new Date(Date.now() - 24 * 3600_000)));
  const at = query.get("at") ?? yesterday;
  const [typed, setTyped] = useState(at); // beside the address, which follows a moment later
  const put = (more: Record<string, string>) =>
    setQuery((q) => new URLSearchParams({ ...Object.fromEntries(q), ...more }), { replace: true });
  return (
    <>
      <div className="inline-fields">
        <Trans>
          <Select
            aria-label={t`Tab`}
            value={tab?.id}
            options={tracker.tabs.map((one) => ({ value: one.id, label: one.name }))}
            onChange={(id: string) => put({ tab: id })}
            style={{ minWidth: 160 }}
          />
          as it was at
          <Input
            type="datetime-local"
            aria-label={t`At`}
            value={typed}
            onChange={(e) => {
              if (!e.target.value) return;
              setTyped(e.target.value);
              if (e.target.value > "1970") put({ at: e.target.value }); // else its year is still being typed
            }}
            style={{ width: 200 }}
          />
        </Trans>
      </div>
      {tab && <Compared key={tab.id + at} tracker={tracker} tab={tab} at={new Date(at)} />}
    </>
  );
}

function Compared({ tracker, tab, at }: { tracker: Tracker; tab: Tab; at: Date }) {
  const [all, setAll] = useState(false);
  const people = usePeople();
  const forms = useContext(Writing);
  const names = useMemo(() => new Map((people.data ?? []).map((p) => [p.address, p.name])), [people.data]);
  const params = { path: { tracker: tracker.id, tab: tab.id } };
  const rows = (as_of?: string) =>
    ask(
      api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
        params: { ...params, query: { limit: most, ...(as_of ? { as_of } : {}) } },
      }),
    );
  const then = useQuery({
    queryKey: ["as of", tracker.id, tab.id, at.toISOString()],
    queryFn: () => rows(at.toISOString()),
    retry: false,
  });
  const now = useQuery({ queryKey: ["as of", tracker.id, tab.id, "now"], queryFn: () => rows() });
  if (then.isError && problemOf(then.error).status === 404) {
    return (
      <p>
        <Trans>The tab was not there yet. Choose a later moment.</Trans>
      </p>
    );
  }
  if (then.isLoadingError) return <ProblemNote error={then.error} />;
  if (now.isLoadingError) return <ProblemNote error={now.error} />;
  if (!then.data || !now.data)
    return (
      <p className="quiet">
        <Trans>Loading…</Trans>
      </p>
    );
  const found = differences(then.data.rows, now.data.rows);
  const cut = Math.max(then.data.total, now.data.total) > most;
  const list = all ? found : found.filter((f) => f.gone || f.added || f.changed.length > 0);
  const count = (is: (f: Then) => boolean) => found.filter(is).length;
  const columns = tab.columns.filter(
    (c) => all || list.some((f) => f.changed.includes(c.name)) || c.name === tab.label,
  );
  return (
    <>
      <p>
        <Trans>
          {plural(then.data.total, { one: "# row", other: "# rows" })} then, {now.data.total} now:{" "}
          {plural(
            count((f) => f.changed.length > 0),
            { one: "# row", other: "# rows" },
          )}{" "}
          changed since, {count((f) => f.gone)} left the tab, {count((f) => f.added)} came into it.{" "}
          <Checkbox checked={all} onChange={(e) => setAll(e.target.checked)}>
            Show all rows and columns
          </Checkbox>
        </Trans>
      </p>
      {cut && (
        <p className="soon">
          <Trans>The first {most} rows are compared.</Trans>
        </p>
      )}
      <Table<Then>
        size="small"
        rowKey={(f) => f.row.id}
        scroll={{ x: true }}
        pagination={list.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
        dataSource={list}
        locale={{ emptyText: t`Nothing differs from now.` }}
        columns={[
          {
            title: t`Since then`,
            width: 130,
            render: (_, f) =>
              f.added ? t`came into the tab` : f.gone ? t`left the tab` : f.changed.length > 0 ? t`changed` : "",
          },
          ...columns.map((c) => ({
            title: c.name,
            render: (_: unknown, f: Then) => {
              const says = (r: Row) => orBlank(shown(r.cells[c.name], c, names, forms));
              if (f.now && f.changed.includes(c.name)) {
                return (
                  <>
                    <del>{says(f.row)}</del> <ins>{says(f.now)}</ins>
                  </>
                );
              }
              if (c.name !== tab.label || f.gone) return says(f.row);
              return <Link to={`/t/${tracker.id}/${tab.id}?row=${f.row.id}`}>{says(f.row)}</Link>;
            },
          })),
        ]}
      />
    </>
  );
}
