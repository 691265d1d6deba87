// Every change of a tracker, newest first: by whom, what it was, and what followed; each can
// be looked into and undone.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Select, Table } from "antd";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, problemOf, type JournalEntry } from "../api/client";
import { Changes } from "../parts/Changes";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useRoom } from "../parts/useMedia";
import { usePeople, useTrackers, useWhen } from "../parts/queries";
import { countWords } from "./Outcome";

const step = 50;

export function JournalList({ tracker }: { tracker: string }) {
  const when = useWhen();
  const room = useRoom();
  const may = useMay(tracker);
  const people = usePeople();
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const trackers = useTrackers();
  const [query, setQuery] = useSearchParams();
  const [by, tab, row] = [query.get("by"), query.get("tab"), query.get("row")];
  const tabs = trackers.data?.find((one) => one.id === tracker || one.name === tracker)?.tabs ?? [];
  const filter = { ...(by ? { by } : {}), ...(tab ? { tab } : {}), ...(row ? { row } : {}) };
  const put = (name: string, value?: string) =>
    setQuery((q) => {
      const to = new URLSearchParams(q);
      if (value) to.set(name, value);
      else to.delete(name);
      return to;
    });
  const [most, setMost] = useState(step);
  const journal = useQuery({
    queryKey: ["journal", tracker, filter, most],
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/journal", {
          params: { path: { tracker }, query: { ...filter, limit: most } },
        }),
      ),
    placeholderData: (before) => before,
  });
  const undo = useMutation({
    mutationFn: (seq: number) => ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } })),
    onSuccess: (set) => {
      notification.success({ title: t`Undone`, description: t`Saved as change set ${set.seq ?? 0}.` });
      void queries.invalidateQueries();
    },
    onError: (err) =>
      notification.error({
        title: problemOf(err).title,
        description: [problemOf(err).detail, ...(problemOf(err).conflicts ?? [])].join(" "),
        duration: 0,
      }),
  });
  return (
    <>
      <div className="inline-fields">
        <Select
          showSearch={{ optionFilterProp: "label" }}
          aria-label={t`Changes by`}
          allowClear
          value={by ?? undefined}
          placeholder={t`by anybody`}
          options={(people.data ?? []).map((p) => ({ value: p.name, label: p.name }))}
          onChange={(name?: string) => put("by", name)}
          style={{ minWidth: 200 }}
        />
        <Select
          aria-label={t`Changes in tab`}
          allowClear
          showSearch={{ optionFilterProp: "label" }}
          value={tab ?? undefined}
          placeholder={t`in any tab`}
          options={tabs.map((one) => ({ value: one.id, label: one.name }))}
          onChange={(id?: string) => put("tab", id)}
          style={{ minWidth: 180 }}
        />
        {row && (
          <Button size="small" onClick={() => put("row")}>
            {t`Only row ${row} ×`}
          </Button>
        )}
      </div>
      {journal.isError && <ProblemNote error={journal.error} />}
      <Table<JournalEntry>
        size="small"
        rowKey="seq"
        loading={journal.isPending}
        pagination={false}
        dataSource={journal.data}
        locale={{
          emptyText: Object.keys(filter).length === 0 ? t`No changes yet.` : t`No changes match these filters.`,
        }}
        expandable={{
          columnTitle: (
            <span className="hidden-words">
              <Trans>Details</Trans>
            </span>
          ),
          expandedRowRender: (e) => <OneSet seq={e.seq} />,
        }}
        columns={[
          { title: t`No`, dataIndex: "seq", width: room(70) },
          { title: t`When`, render: (_, e) => when(e.at, tracker), width: room(150) },
          { title: t`By`, dataIndex: "who", width: room(170) },
          { title: t`What`, dataIndex: "says" },
          { title: t`Changes`, render: (_, e) => countWords(e.counts) },
          {
            title: (
              <span className="hidden-words">
                <Trans>Actions</Trans>
              </span>
            ),
            width: 80,
            render: (_, e) =>
              may.edit && (
                <Button
                  size="small"
                  aria-label={t`Undo change set ${e.seq}`}
                  disabled={undo.isPending}
                  onClick={() => undo.mutate(e.seq)}
                >
                  {t`Undo`}
                </Button>
              ),
          },
        ]}
      />
      {journal.data?.length === most && most < 500 && (
        <Button type="link" onClick={() => setMost(Math.min(500, most + step))}>
          {t`Show older changes`}
        </Button>
      )}
    </>
  );
}

function OneSet({ seq }: { seq: number }) {
  const set = useQuery({
    queryKey: ["change set", seq],
    queryFn: () => ask(api.GET("/api/v1/journal/{seq}", { params: { path: { seq } } })),
    staleTime: Infinity, // what has happened stays as it was
  });
  if (set.isLoadingError) return <ProblemNote error={set.error} />;
  if (!set.data)
    return (
      <p className="quiet">
        <Trans>Loading…</Trans>
      </p>
    );
  return <Changes changes={set.data.changes} more={set.data.more} />;
}
