// A tab of a tracker: its grid, what one may do with it, and at the right why
// the selected cell is as it is.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { App, Dropdown, type InputRef } from "antd";
import { useCallback, useEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Column, Row, Tab, Tracker } from "../api/client";
import { columnsFor, isFixed, mayAdd, mayOf } from "../parts/may";
import { KeepFileContext } from "../parts/FileField";
import { ProblemNote } from "../parts/ProblemNote";
import { keepFileIn } from "./keepFile";
import { Working } from "../parts/Working";
import { useNarrow } from "../parts/useMedia";
import { usePeople, useTrackers } from "../parts/queries";
import { AddRow, type Spot } from "./AddRow";
import { ArrangedBy } from "./ArrangedBy";
import { clauseOf, columnsShown, filters, narrows, orderText, type Arrangement } from "./arrangement";
import { Cards } from "./Cards";
import { CellProblem, OddCell } from "./CellProblem";
import { ColumnsDialog } from "./ColumnsDialog";
import { Grid, type Chosen } from "./Grid";
import { layOut } from "./layout";
import type { Paste } from "./paste";
import { PasteDialog } from "./PasteDialog";
import { ReplaceDialog } from "./ReplaceDialog";
import { DetailsButton, RowsMenu, type RowItems } from "./RowsMenu";
import { SelectionFoot } from "./SelectionFoot";
import { storeOf } from "./stores";
import { TabBar } from "./TabBar";
import { Unsaved } from "./Unsaved";
import { useArrangement } from "./useArrangement";
import { useEdits, type CellEdit } from "./useEdits";
import { atCells, useOthers } from "./useOthers";
import { useRowActions } from "./useRowActions";
import { useAround, useFound, useLoaded, type Asked } from "./useRows";
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
  const store = useMemo(() => storeOf(tracker.id), [tracker.id]);
  const may = mayOf(tracker.role);
  const shown = useMemo(() => columnsFor(tab), [tab]);
  const [query, setQuery] = useSearchParams();
  const people = usePeople();
  const names = useMemo(() => new Map((people.data ?? []).map((p) => [p.address, p.name])), [people.data]);
  const arranged = useArrangement(tracker, tab);
  const { arrangement, arrange } = arranged;
  const columnsIn = useMemo(() => columnsShown(arrangement, shown), [arrangement, shown]);
  const { frozen } = useMemo(
    () => layOut(columnsIn, tab.label, arrangement.widths, arrangement.frozen),
    [columnsIn, tab.label, arrangement],
  );
  const [adding, setAdding] = useState<{ begin: Record<string, unknown>; at?: Spot }>();
  const [columns, setColumns] = useState(false);
  const [replacing, setReplacing] = useState(false);
  const [pasting, setPasting] = useState<{ plan: Paste; cells: CellEdit[] }>();
  const [why, setWhy] = useState(() => localStorage.getItem(whyOpen) === "yes");
  const isNarrow = useNarrow();
  const [cards, setCards] = useState(true); // in a narrow window
  const asCards = isNarrow && cards;
  const [active, setActive] = useState<{ row: string; column: Column; chosen: Chosen }>();
  const finder = useRef<InputRef>(null);
  const edits = useEdits(tracker.id, store);
  const loaded = useLoaded(store, tracker.id, tab.id);
  const asked = useMemo(
    () => (narrows(arrangement) ? selectionOf(arrangement, tab.columns) : undefined),
    [arrangement, tab.columns],
  );
  const found = useFound(tracker.id, tab.id, asked);
  const all = useSyncExternalStore(store.subscribeOrder, () => store.ids(tab.id));
  const ids = (asked && found.ids) ?? all ?? none; // until the answer is there, all of them
  const keepFile = useMemo(() => keepFileIn(tracker, tab), [tracker, tab]);
  const onSight = useAround(store, tracker.id, tab);
  const narrowed = filters(arrangement) && found.ids !== undefined;

  const others = useOthers(tracker.id, { tab: tab.id, row: active?.row, column: active?.column.name });
  const here = useMemo(() => atCells(others), [others]);

  const acts = useRowActions({
    tracker,
    tab,
    store,
    edits,
    rows: may.edit ? (active?.chosen.rows ?? none) : none,
    ids,
    inOrder: arrangement.order.length === 0,
    mayAdd: mayAdd(tracker, tab),
    onNew: (begin, at) => setAdding({ begin, at }),
  });
  const actions: RowItems = [
    ...acts.items,
    ...(acts.items.length > 0
      ? [{ key: "replace", label: t`Find and replace…`, onClick: () => setReplacing(true) }]
      : []),
  ];
  const hasItems = may.edit && acts.items.length > 0;
  const newest = useRef(actions);
  useEffect(() => {
    newest.current = actions;
  });
  const rowItems = useCallback(() => newest.current, []);
  const addRow = useCallback(() => setAdding({ begin: {} }), []);
  const showColumns = useCallback(() => setColumns(true), []);
  const toggleCards = useCallback(() => setCards((is) => !is), []);
  const toggleWhy = useCallback(() => {
    setWhy((open) => {
      localStorage.setItem(whyOpen, open ? "no" : "yes");
      return !open;
    });
  }, []);
  const onActive = useCallback((row: Row | undefined, column: Column | undefined, chosen: Chosen) => {
    // who writes in the panel stays with the row they write about
    const isWriting = document.activeElement?.closest(".why textarea") != null;
    setActive((was) =>
      isWriting && was?.row !== row?.id ? was : row && column ? { row: row.id, column, chosen } : undefined,
    );
  }, []);
  const { notification } = App.useApp();
  const onAdrift = (id: string) => {
    const row = store.row(id);
    notification.warning({
      key: "adrift",
      title: t`Nothing was changed`,
      description: row
        ? t`${row.label} is in ${row.tab} now. Select a cell first.`
        : t`The row was deleted. Select a cell first.`,
      placement: "bottomLeft",
    });
  };
  const beside = (row: string, column: string) => {
    const edit = edits.refused.find((e) => e.cells.some((c) => c.row === row && c.column === column));
    if (edit) return <CellProblem edit={edit} edits={edits} />;
    const stands = store.row(row);
    const is = stands?.odd?.includes(column) ? shown.find((c) => c.name === column) : undefined;
    return stands && is && may.edit && !isFixed(is) && <OddCell row={stands} column={is} edits={edits} />;
  };
  return (
    <div className="tracker">
      <div className="tracker-main">
        <TabBar
          tracker={tracker}
          tab={tab}
          shown={ids.length}
          all={narrowed ? (all?.length ?? 0) : undefined}
          others={others}
          finder={finder}
          arranged={arranged}
          frozen={frozen}
          workbook={workbook(tracker, tab, arrangement)}
          isNarrow={isNarrow}
          asCards={asCards}
          onCards={toggleCards}
          rowItems={hasItems ? rowItems : undefined}
          why={why}
          onWhy={toggleWhy}
          onAdd={addRow}
          onColumns={showColumns}
          onSaved={edits.accept}
          onUndo={edits.undo}
          onUndoOne={edits.undoOne}
        />
        {loaded.error !== undefined && <ProblemNote error={loaded.error} />}
        {found.error !== undefined && <ProblemNote error={found.error} />}
        <ArrangedBy arrangement={arrangement} columns={tab.columns} names={names} onArrange={arrange} />
        {found.odd > 0 && (
          <p className="soon tracker-over">
            <Trans>
              {plural(found.odd, { one: "# row", other: "# rows" })} skipped:{" "}
              {found.passedOver
                .slice(0, 5)
                .map((p) => `${p.label} (${p.why})`)
                .join(", ")}
              {found.odd > 5 && ", …"}
            </Trans>
          </p>
        )}
        {ids.length === 0 && (asked ? found.ids !== undefined && !found.error : all !== undefined) && (
          <p className="quiet tracker-over">
            {!narrowed ? t`No rows yet. Add one or import a file.` : t`No rows match this filter.`}
          </p>
        )}
        {edits.waiting > 0 && (
          <p className="soon tracker-over" role="status">
            {plural(edits.waiting, { one: "# edit waits to be sent.", other: "# edits wait to be sent." })}
          </p>
        )}
        <div className="tracker-over">
          <Working working={edits.working} says={t`Changing cells`} />
        </div>
        <Unsaved edits={edits} />
        <Dropdown menu={{ items: actions }} trigger={["contextMenu"]} disabled={acts.items.length === 0}>
          <div className="tracker-grid">
            <KeepFileContext value={keepFile}>
              {asCards ? (
                <Cards
                  key={tab.id}
                  store={store}
                  ids={ids}
                  columns={columnsIn}
                  label={tab.label}
                  people={people.data ?? []}
                  go={query.get("row") ?? undefined}
                  name={tab.name}
                  onActive={onActive}
                  onSight={onSight}
                  onSet={edits.set}
                  onTyping={edits.typing}
                  beside={beside}
                  actions={
                    <>
                      {hasItems && <RowsMenu items={rowItems} />}
                      <DetailsButton shown={why} onPress={toggleWhy} />
                    </>
                  }
                />
              ) : (
                <Grid
                  key={tab.id}
                  store={store}
                  ids={ids}
                  tab={tab.id}
                  columns={columnsIn}
                  label={tab.label}
                  arrangement={arrangement}
                  onArrange={arrange}
                  onReplace={() => may.edit && !tab.read_only && setReplacing(true)}
                  onFind={() => finder.current?.focus({ cursor: "all" })}
                  people={people.data ?? []}
                  go={query.get("row") ?? undefined}
                  name={tab.name}
                  onActive={onActive}
                  onSight={onSight}
                  onSet={edits.set}
                  onTyping={edits.typing}
                  onSetMany={edits.setMany}
                  beside={beside}
                  onAdrift={onAdrift}
                  others={here}
                  drag={acts.moveTo && { tracker: tracker.id, moveTo: acts.moveTo, place: acts.place }}
                  onPaste={(plan, cells) => setPasting({ plan, cells })}
                  onUndo={() => may.edit && void edits.undo()}
                  onRedo={() => may.edit && void edits.redo()}
                  onWhy={toggleWhy}
                />
              )}
            </KeepFileContext>
          </div>
        </Dropdown>
        {active && active.chosen.rows.length * active.chosen.columns.length > 1 && (
          <SelectionFoot store={store} chosen={active.chosen} columns={columnsIn} />
        )}
      </div>
      {why && active && (
        <WhyPanel
          key={active.row}
          store={store}
          tracker={tracker}
          tab={tab}
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
          begin={adding.begin}
          at={adding.at}
          onAdded={(row) => setQuery((q) => new URLSearchParams({ ...Object.fromEntries(q), row }), { replace: true })}
          onClose={() => setAdding(undefined)}
        />
      )}
      {replacing && (
        <ReplaceDialog
          store={store}
          ids={ids}
          chosen={(active?.chosen.rows.length ?? 0) > 1 ? (active?.chosen.rows ?? none) : none}
          columns={columnsIn}
          people={people.data ?? []}
          onReplace={edits.setMany}
          onClose={() => setReplacing(false)}
        />
      )}
      {pasting && (
        <PasteDialog
          {...pasting}
          tracker={tracker}
          tab={tab}
          edits={edits}
          mayAdd={mayAdd(tracker, tab)}
          onClose={() => setPasting(undefined)}
        />
      )}
      {columns && <ColumnsDialog tracker={tracker} tab={tab} edits={edits} onClose={() => setColumns(false)} />}
    </div>
  );
}

const none: string[] = [];

// selectionOf gives what is asked of the service for an arrangement.
function selectionOf(a: Arrangement, columns: Column[]): Asked {
  const asked = { where: clauseOf(a, columns), words: a.words.trim(), order: orderText(a.order) };
  return Object.fromEntries(Object.entries(asked).filter(([, text]) => text !== ""));
}

// workbook gives the address of the rows and columns shown, as a workbook.
function workbook(tracker: Tracker, tab: Tab, a: Arrangement): string {
  const query = new URLSearchParams({ tab: tab.id, ...selectionOf(a, tab.columns) });
  if (a.columns.length > 0) query.set("columns", a.columns.join(","));
  return `/api/v1/trackers/${tracker.id}/export?${query}`;
}
