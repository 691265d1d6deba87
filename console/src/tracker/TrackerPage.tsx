// A tab of a tracker: its grid, what one may do with it, and at the right why
// the selected cell is as it is.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Dropdown, Input } from "antd";
import { useCallback, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Column, Row, Tab, Tracker } from "../api/client";
import { listen } from "../api/live";
import { columnsFor, mayAdd, mayOf } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { usePeople, useTrackers } from "../parts/queries";
import { AddRow } from "./AddRow";
import { ColumnsDialog } from "./ColumnsDialog";
import { Grid, type Chosen } from "./Grid";
import { RaceDialog } from "./RaceDialog";
import { RowStore } from "./rowStore";
import { SelectionFoot } from "./SelectionFoot";
import { Unsaved } from "./Unsaved";
import { useEdits, type CellEdit } from "./useEdits";
import { useRowActions } from "./useRowActions";
import { useFound, useLoaded } from "./useRows";
import { WhyPanel } from "./WhyPanel";
import "./tracker.css";

export default function TrackerPage() {
  const params = useParams();
  const trackers = useTrackers();
  if (trackers.isPending)
    return (
      <div className="page quiet">
        <Trans>Loading…</Trans>
      </div>
    );
  const tracker = trackers.data?.find((one) => one.id === params.tracker || one.name === params.tracker);
  const tab = tracker?.tabs.find((one) => one.id === params.tab);
  if (!tracker || !tab) {
    return (
      <div className="page">
        {trackers.isError ? (
          <ProblemNote error={trackers.error} />
        ) : (
          <p>
            <Trans>Tab not found. Choose another at the left.</Trans>
          </p>
        )}
      </div>
    );
  }
  return <TrackerTab key={tracker.id} tracker={tracker} tab={tab} />;
}

const whyOpen = "kavlo why";

function TrackerTab({ tracker, tab }: { tracker: Tracker; tab: Tab }) {
  const store = useMemo(() => new RowStore(), []);
  const may = mayOf(tracker.role);
  const shown = useMemo(() => columnsFor(tab), [tab]);
  const [query] = useSearchParams();
  const people = usePeople();
  const [where, setWhere] = useState("");
  const [adding, setAdding] = useState<Record<string, unknown>>(); // what the form begins with
  const [columns, setColumns] = useState(false);
  const [why, setWhy] = useState(() => localStorage.getItem(whyOpen) === "yes");
  const [active, setActive] = useState<{ row: string; column: Column; chosen: Chosen }>();
  const edits = useEdits(tracker.id, store);
  const loaded = useLoaded(store, tracker.id, tab.id);
  const found = useFound(store, tracker.id, tab.id, where);
  const all = useSyncExternalStore(store.subscribeOrder, () => store.ids(tab.id));
  const ids = (where === "" ? all : found.ids) ?? none;

  const { again } = loaded;
  useEffect(
    () => listen((e) => e.trackers.includes(tracker.id) && (e.reload ? void again() : store.apply(e))),
    [store, tracker.id, again],
  );

  const acts = useRowActions({
    tracker,
    tab,
    store,
    edits,
    rows: may.edit ? (active?.chosen.rows ?? none) : none,
    mayAdd: mayAdd(tracker, tab),
    onCopy: setAdding,
  });
  const toggleWhy = useCallback(() => {
    setWhy((open) => {
      localStorage.setItem(whyOpen, open ? "no" : "yes");
      return !open;
    });
  }, []);
  const onActive = useCallback((row: Row | undefined, column: Column | undefined, chosen: Chosen) => {
    setActive(row && column ? { row: row.id, column, chosen } : undefined);
  }, []);
  const { lose } = edits;
  const onLost = useCallback(
    (e: CellEdit) => lose([e], t`The row left this tab while you typed. Save puts the text into it where it is now.`),
    [lose],
  );
  return (
    <div className="tracker">
      <div className="tracker-main">
        <header className="tracker-bar">
          <h1>{tab.name}</h1>
          <span className="quiet">
            {where === ""
              ? plural(ids.length, { one: "# row", other: "# rows" })
              : t`${ids.length} of ${plural(all?.length ?? 0, { one: "# row", other: "# rows" })}`}
          </span>
          {tab.read_only && (
            <span className="quiet">
              <Trans>You may read this tab, and not change it.</Trans>
            </span>
          )}
          <Input.Search
            className="tracker-where"
            allowClear
            placeholder={t`Filter, such as Due before today`}
            aria-label={t`Filter`}
            onSearch={setWhere}
            onChange={(e) => e.target.value === "" && setWhere("")}
            enterButton={t`Filter`}
          />
          <div className="tracker-buttons">
            {mayAdd(tracker, tab) && <Button onClick={() => setAdding({})}>{t`Add row`}</Button>}
            {may.edit && acts.length > 0 && (
              <Dropdown menu={{ items: acts }} trigger={["click"]}>
                <Button>{t`Rows`}</Button>
              </Dropdown>
            )}
            {may.keep && <Button onClick={() => setColumns(true)}>{t`Columns`}</Button>}
            <Button href={workbook(tracker, tab, where)} title={t`A workbook of the rows shown`}>
              {t`Export`}
            </Button>
            {may.edit && (
              <Button onClick={() => void edits.takeBack()} title={t`Ctrl+Z`}>
                {t`Undo`}
              </Button>
            )}
            <Button type={why ? "primary" : "default"} aria-pressed={why} onClick={toggleWhy} title={t`F4`}>
              {t`Details`}
            </Button>
          </div>
        </header>
        {loaded.error !== undefined && <ProblemNote error={loaded.error} />}
        {found.error !== undefined && <ProblemNote error={found.error} />}
        {found.passedOver.length > 0 && (
          <p className="soon tracker-over">
            <Trans>
              {plural(found.passedOver.length, { one: "# row", other: "# rows" })} skipped:{" "}
              {found.passedOver.map((p) => `${p.label} (${p.why})`).join(", ")}
            </Trans>
          </p>
        )}
        {ids.length === 0 && all !== undefined && (
          <p className="quiet tracker-over">
            {where === "" ? t`No rows yet. Add one or import a file.` : t`No rows match this filter.`}
          </p>
        )}
        <Unsaved
          drafts={edits.drafts}
          onSave={(d) => void edits.saveDraft(d)}
          onChange={edits.changeDraft}
          onDiscard={edits.discardDraft}
        />
        <Dropdown menu={{ items: acts }} trigger={["contextMenu"]} disabled={acts.length === 0}>
          <div className="tracker-grid">
            <Grid
              key={tab.id}
              store={store}
              ids={ids}
              columns={shown}
              label={tab.label}
              people={people.data ?? []}
              go={query.get("row") ?? undefined}
              name={tab.name}
              onActive={onActive}
              onSet={(e) => void edits.set(e)}
              onSetMany={(e) => void edits.setMany(e)}
              onLost={onLost}
              onTakeBack={() => may.edit && void edits.takeBack()}
              onWhy={toggleWhy}
            />
          </div>
        </Dropdown>
        {active && active.chosen.rows.length * active.chosen.columns.length > 1 && (
          <SelectionFoot store={store} chosen={active.chosen} columns={shown} />
        )}
      </div>
      {why && active && (
        <WhyPanel
          key={active.row}
          store={store}
          tracker={tracker}
          row={active.row}
          column={active.column}
          chosen={active.chosen}
          columns={shown}
          edits={edits}
          onClose={toggleWhy}
        />
      )}
      {adding && (
        <AddRow
          tracker={tracker}
          tab={tab}
          people={people.data ?? []}
          edits={edits}
          begin={adding}
          onClose={() => setAdding(undefined)}
        />
      )}
      {columns && <ColumnsDialog tracker={tracker} tab={tab} edits={edits} onClose={() => setColumns(false)} />}
      <RaceDialog race={edits.race} onSettle={(mine) => void edits.settle(mine)} />
    </div>
  );
}

const none: string[] = [];

// workbook gives the address of the rows shown, as a workbook.
function workbook(tracker: Tracker, tab: Tab, where: string): string {
  const query = new URLSearchParams({ tab: tab.id, ...(where ? { where } : {}) });
  return `/api/v1/trackers/${tracker.id}/export?${query}`;
}
