// A tracker's own settings: its name, and its tabs in their order.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, type Tab, type Tracker } from "../api/client";
import { useMay } from "../parts/may";
import { ConfirmDelete } from "../parts/ConfirmDelete";
import { Overtaken } from "../parts/Overtaken";
import { ProblemNote } from "../parts/ProblemNote";
import { useTrackers } from "../parts/queries";
import { useFields } from "../parts/useFields";
import { NewTrackerButton } from "../start/Greeting";
import { TrackerSettings } from "./TrackerSettings";
import { useChange } from "./useChange";
import "../automation/automation.css";

export default function SettingsPage() {
  const { tracker: name = "" } = useParams();
  const trackers = useTrackers();
  const may = useMay(name);
  const workspace = useMay();
  const tracker = trackers.data?.find((one) => one.id === name || one.name === name);
  if (!tracker)
    return (
      <div className="page quiet">
        <Trans>Loading…</Trans>
      </div>
    );
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Settings</Trans>
        </h1>
        <span className="quiet">{tracker.name}</span>
        <span style={{ flex: 1 }} />
        {workspace.keep && <NewTrackerButton />}
      </header>
      {!may.keep && (
        <p className="quiet">
          <Trans>An admin can change these.</Trans>
        </p>
      )}
      {may.keep && <Named tracker={tracker} />}
      {may.keep && <TrackerSettings tracker={tracker} />}
      <section className="section" aria-label={t`Tabs of this tracker`}>
        <h2>
          <Trans>Tabs</Trans>
        </h2>
        {tracker.tabs.map((tab, i) => (
          <TabLine key={tab.id} tracker={tracker} tab={tab} nth={i} keep={may.keep} />
        ))}
        {may.keep && <NewTab tracker={tracker} />}
      </section>
      <section className="section">
        <h2>
          <Trans>What could run by itself</Trans>
        </h2>
        <p>
          <Link to={`/t/${tracker.id}/start`}>
            <Trans>Suggestions for this tracker</Trans>
          </Link>
        </p>
      </section>
    </div>
  );
}

function Named({ tracker }: { tracker: Tracker }) {
  const { fields, put, isChanged, overtaken } = useFields(tracker);
  const name = fields.name;
  const change = useChange();
  const navigate = useNavigate();
  const path = { tracker: tracker.id };
  const drop = (query: { preview?: "yes" }) =>
    ask(api.DELETE("/api/v1/trackers/{tracker}", { params: { path, query } }));
  return (
    <section className="section" aria-label={t`Tracker`}>
      <h2>
        <Trans>Tracker</Trans>
      </h2>
      <span className="inline-fields">
        <label>
          <Trans>
            Name <Input value={name} onChange={(e) => put({ name: e.target.value })} style={{ width: 260 }} />
          </Trans>
        </label>
        <Button
          disabled={name.trim() === "" || !isChanged}
          onClick={() =>
            change.mutate({
              work: () => ask(api.PATCH("/api/v1/trackers/{tracker}", { params: { path }, body: { name } })),
              says: t`Renamed to ${name}`,
            })
          }
        >
          {t`Rename`}
        </Button>
        <ConfirmDelete
          title={t`Delete ${tracker.name} with its ${plural(tracker.tabs.length, { one: "# tab", other: "# tabs" })} and all rows?`}
          says={t`Its rules, reminders, lists, files, pages, forms and charts go with it. Undo brings everything back.`}
          okText={t`Delete tracker`}
          work={drop}
          onConfirm={() =>
            change.mutate(
              { work: () => drop({}), says: t`Deleted tracker ${tracker.name}` },
              { onSuccess: () => void navigate("/") },
            )
          }
        >
          <Button danger>{t`Delete tracker`}</Button>
        </ConfirmDelete>
      </span>
      <Overtaken fields={overtaken.map(() => ({ called: t`Name`, now: tracker.name }))} />
      {change.isError && <ProblemNote error={change.error} />}
    </section>
  );
}

function TabLine({ tracker, tab, nth, keep }: { tracker: Tracker; tab: Tab; nth: number; keep: boolean }) {
  const edited = useFields(tab);
  const name = edited.fields.name;
  const change = useChange();
  const path = { tracker: tracker.id, tab: tab.id };
  const drop = (query: { preview?: "yes" }) =>
    ask(api.DELETE("/api/v1/trackers/{tracker}/tabs/{tab}", { params: { path, query } }));
  const put = (body: { name?: string; after?: string; first?: boolean }, says: string) =>
    change.mutate({
      work: () => ask(api.PATCH("/api/v1/trackers/{tracker}/tabs/{tab}", { params: { path }, body })),
      says,
    });
  if (!keep) return <p>{tab.name}</p>;
  const before = tracker.tabs[nth - 2];
  const next = tracker.tabs[nth + 1];
  return (
    <div className="inline-fields tab-line">
      <Input
        aria-label={t`Name of tab ${tab.name}`}
        value={name}
        onChange={(e) => edited.put({ name: e.target.value })}
        style={{ width: 220 }}
      />
      <Button
        size="small"
        disabled={name.trim() === "" || !edited.isChanged}
        aria-label={t`Rename tab ${tab.name}`}
        onClick={() => put({ name }, t`Renamed tab to ${name}`)}
      >
        {t`Rename`}
      </Button>
      <Button
        size="small"
        type="text"
        disabled={nth === 0}
        aria-label={t`Move tab ${tab.name} up`}
        onClick={() => put(before ? { after: before.id } : { first: true }, t`Moved tab ${tab.name}`)}
      >
        ↑
      </Button>
      <Button
        size="small"
        type="text"
        disabled={!next}
        aria-label={t`Move tab ${tab.name} down`}
        onClick={() => next && put({ after: next.id }, t`Moved tab ${tab.name}`)}
      >
        ↓
      </Button>
      <span className="quiet">{plural(tab.rows, { one: "# row", other: "# rows" })}</span>
      <ConfirmDelete
        title={t`Delete tab ${tab.name} with ${plural(tab.rows, { one: "# row", other: "# rows" })}?`}
        says={t`Undo brings both back.`}
        okText={t`Delete tab`}
        work={drop}
        onConfirm={() => change.mutate({ work: () => drop({}), says: t`Deleted tab ${tab.name}` })}
      >
        <Button size="small" type="text" danger aria-label={t`Delete tab ${tab.name}`}>
          {t`Delete`}
        </Button>
      </ConfirmDelete>
    </div>
  );
}

function NewTab({ tracker }: { tracker: Tracker }) {
  const [name, setName] = useState("");
  const [like, setLike] = useState<string>();
  const change = useChange();
  return (
    <div className="inline-fields tab-line">
      <Trans>
        <Input
          aria-label={t`Name of the new tab`}
          placeholder={t`New tab`}
          value={name}
          onChange={(e) => setName(e.target.value)}
          style={{ width: 220 }}
        />
        with the columns of
        <Select
          aria-label={t`With the columns of`}
          allowClear
          value={like}
          placeholder={t`no other tab`}
          options={tracker.tabs.map((one) => ({ value: one.id, label: one.name }))}
          onChange={setLike}
          style={{ minWidth: 160 }}
        />
        <Button
          disabled={name.trim() === ""}
          onClick={() => {
            const work = () =>
              ask(
                api.POST("/api/v1/trackers/{tracker}/tabs", {
                  params: { path: { tracker: tracker.id } },
                  body: like ? { name, like } : { name },
                }),
              );
            change.mutate({ work, says: t`Added tab ${name}` }, { onSuccess: () => setName("") });
          }}
        >
          Add tab
        </Button>
      </Trans>
    </div>
  );
}
