// Edits on their way to the service: shown at once as pending, confirmed or
// refused by its answer. Two people in one cell are both shown to the second.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { App } from "antd";
import { useCallback, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { api, ask, problemOf, type ChangeSet, type Column, type Row } from "../api/client";
import { once } from "../api/patient";
import { Drafts, type Draft } from "./drafts";
import { typed } from "./format";
import type { components } from "../api/schema";
import type { RowStore } from "./rowStore";

export type Race = { row: Row; current: Row; column: Column; mine: unknown };
export type CellEdit = { row: Row; column: Column; value: unknown };

function same(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

function setCell(tracker: string, row: Row, column: Column, value: unknown, keepOdd: boolean): Promise<ChangeSet> {
  return ask(
    api.PATCH("/api/v1/trackers/{tracker}/tabs/{tab}/rows/{row}", {
      params: { path: { tracker, tab: row.tab_id, row: row.id }, header: { "If-Match": `"${row.version}"` } },
      body: { cells: { [column.name]: value }, keep_odd: keepOdd },
      fetch: once, // what could not be sent is kept as a draft
    }),
  );
}

const wouldKeepOdd = "urn:kavlo:would-keep-odd";

// remarks say what an answer tells of texts that do not fit or were read in one of two ways.
export function remarks(set: Pick<ChangeSet, "odd" | "read">): string[] {
  return [
    ...(set.read ?? []).map((r) => t`${r.column} of ${r.label}: read “${r.value}” as ${r.as}`),
    ...(set.odd ?? []).map((o) => t`${o.column} of ${o.label}: “${o.value}” ${o.why}${o.hint ? `: ${o.hint}` : ""}`),
  ];
}

// during counts something as under way until it has ended.
async function during<T>(all: Set<Promise<unknown>>, one: Promise<T>): Promise<T> {
  all.add(one);
  try {
    return await one;
  } finally {
    all.delete(one);
  }
}

export function useEdits(tracker: string, store: RowStore) {
  const { notification, modal } = App.useApp();
  const [race, setRace] = useState<Race>();
  const done = useRef<number[]>([]); // change sets of mine, for taking back
  const inTurn = useRef(new Map<string, Promise<void>>()); // edits of a row go one after the other
  const underWay = useRef(new Set<Promise<unknown>>()); // what is sent and not answered yet
  const mine = useRef(new Map<string, unknown>()); // what I last saved in a cell
  const kept = useMemo(() => new Drafts(`kavlo drafts ${tracker}`), [tracker]);
  const drafts = useSyncExternalStore(kept.subscribe, kept.list);

  // lose keeps what was typed and could not be saved.
  const lose = useCallback(
    (edits: CellEdit[], why: string) => {
      const one = edits[0];
      if (!one) return;
      const rows = new Set(edits.map((e) => e.row.id)).size;
      kept.add({
        title:
          edits.length === 1
            ? `${one.row.label}: ${one.column.name}`
            : t`${plural(edits.length, { one: "# cell", other: "# cells" })} of ${plural(rows, { one: "# row", other: "# rows" })}`,
        why,
        cells: edits.map((e) => ({ row: e.row.id, column: e.column.name, text: typed(e.value) })),
      });
    },
    [kept],
  );

  const accept = useCallback(
    (set: ChangeSet) => {
      for (const row of set.rows ?? []) store.put(row);
      for (const c of set.changes) if (c.kind === "remove" && c.row) store.drop(c.row);
      if (set.seq) done.current.push(set.seq);
      const said = remarks(set);
      if (said.length > 0) {
        notification.info({
          key: "read",
          title: t`Check what was read`,
          description: said.map((s) => <div key={s}>{s}</div>),
          placement: "bottomLeft",
          duration: 8,
        });
      }
      if (set.followed.length > 0) {
        notification.success({
          key: "followed",
          title: set.rows?.[0]?.label ?? t`Done`,
          description: set.followed.map((f) => <div key={f}>{f}</div>),
          placement: "bottomLeft",
        });
      }
    },
    [notification, store],
  );

  const refuse = useCallback(
    (err: unknown) => {
      const p = problemOf(err);
      notification.error({
        key: "refused",
        title: p.title,
        description: p.detail,
        placement: "bottomLeft",
        duration: 8,
      });
    },
    [notification],
  );

  // mayKeepOdd asks whether good values may give way to what does not fit.
  const mayKeepOdd = useCallback(
    (err: unknown): Promise<boolean> => {
      const p = problemOf(err);
      if (p.type !== wouldKeepOdd) return Promise.resolve(false);
      return new Promise((resolve) => {
        modal.confirm({
          title: t`Keep ${plural(p.odd?.length ?? 1, { one: "# value", other: "# values" })} that ${p.odd?.length === 1 ? "does" : "do"} not fit?`,
          content: (
            <ul className="odd-list">
              {p.odd?.map((o) => (
                <li key={o.row + o.column}>
                  <Trans>
                    {o.column} of {o.label}: “{o.value}” {o.why}
                    {o.hint && `: ${o.hint}`}. It would replace {o.before}.
                  </Trans>
                </li>
              ))}
            </ul>
          ),
          okText: t`Keep as written`,
          cancelText: t`Do not save`,
          onOk: () => resolve(true),
          onCancel: () => resolve(false),
        });
      });
    },
    [modal],
  );

  const send = useCallback(
    async ({ row, column, value }: CellEdit): Promise<void> => {
      store.setPending(row.id, column.name, typeof value === "string" ? value : String(value));
      const cell = `${row.id} ${column.id}`;
      let seen = row;
      let keepOdd = false;
      for (;;) {
        try {
          const set = await setCell(tracker, seen, column, value, keepOdd);
          accept(set);
          mine.current.set(cell, set.rows?.find((r) => r.id === row.id)?.cells[column.name]);
          break;
        } catch (err) {
          const p = problemOf(err);
          if (await mayKeepOdd(err)) {
            keepOdd = true;
            continue;
          }
          if (p.status !== 412 || !p.current) {
            refuse(err);
            lose([{ row, column, value }], p.detail);
            break;
          }
          store.put(p.current);
          const now = p.current.cells[column.name];
          const isMine = mine.current.has(cell) && same(now, mine.current.get(cell));
          if (!isMine && !same(now, row.cells[column.name])) {
            setRace({ row, current: p.current, column, mine: value });
            break;
          }
          seen = p.current; // another cell of the row has changed, or this one by myself: both edits stand
        }
      }
      store.setPending(row.id, column.name, undefined);
    },
    [accept, lose, mayKeepOdd, refuse, store, tracker],
  );

  // setOne sends an edit once those before it, of the same row, are answered.
  const setOne = useCallback(
    async (edit: CellEdit): Promise<void> => {
      const { row, column, value } = edit;
      store.setPending(row.id, column.name, typeof value === "string" ? value : String(value));
      const before = inTurn.current.get(row.id);
      const own = (before ?? Promise.resolve()).then(() => send(edit));
      inTurn.current.set(row.id, own);
      await during(underWay.current, own);
      if (inTurn.current.get(row.id) === own) inTurn.current.delete(row.id);
    },
    [send, store],
  );

  // many makes edits of several rows, all or none.
  const many = useCallback(
    async (edits: components["schemas"]["RowEdit"][]): Promise<string | undefined> => {
      try {
        const sent = api.PATCH("/api/v1/trackers/{tracker}/rows", {
          params: { path: { tracker } },
          body: { edits },
          fetch: once,
        });
        await during(underWay.current, ask(sent).then(accept));
        return undefined;
      } catch (err) {
        if (await mayKeepOdd(err)) return many(edits.map((e) => ({ ...e, keep_odd: true })));
        refuse(err);
        return problemOf(err).detail;
      }
    },
    [accept, mayKeepOdd, refuse, tracker],
  );

  // setMany makes the edits of a block, all or none.
  const setMany = useCallback(
    async (edits: CellEdit[]) => {
      const byRow = new Map<string, { row: string; version: number; cells: Record<string, unknown> }>();
      for (const e of edits) {
        const one = byRow.get(e.row.id) ?? { row: e.row.id, version: e.row.version, cells: {} };
        one.cells[e.column.name] = e.value;
        byRow.set(e.row.id, one);
      }
      const why = await many([...byRow.values()]);
      if (why !== undefined) lose(edits, why);
    },
    [lose, many],
  );

  // saveDraft tries what could not be saved once more, wherever its rows are now.
  const saveDraft = useCallback(
    async (draft: Draft) => {
      const edits = draft.cells.map((c) => ({ row: c.row, cells: { [c.column]: c.text } }));
      if ((await many(edits)) === undefined) kept.drop(draft.id);
    },
    [kept, many],
  );

  const settle = useCallback(
    async (mine: boolean) => {
      const r = race;
      setRace(undefined);
      if (r && mine) await setOne({ row: r.current, column: r.column, value: r.mine });
    },
    [race, setOne],
  );

  const takeBack = useCallback(async () => {
    await Promise.allSettled(underWay.current); // the last change may not be known yet
    const seq = done.current.at(-1);
    if (seq === undefined)
      return notification.info({
        key: "undo",
        title: t`Nothing to undo on this page`,
        description: t`You have changed nothing on this page yet.`,
        placement: "bottomLeft",
      });
    try {
      const set = await ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } }));
      done.current.pop();
      for (const row of set.rows ?? []) store.put(row);
      for (const c of set.changes) if (c.kind === "remove" && c.row) store.drop(c.row);
      notification.info({
        key: "undo",
        title: t`Undone`,
        description: t`${plural(set.changes.length, { one: "# change", other: "# changes" })} undone`,
        placement: "bottomLeft",
      });
    } catch (err) {
      refuse(err);
      // what cannot be undone any more holds up nothing that can
      if ([404, 409].includes(problemOf(err).status)) done.current.pop();
    }
  }, [notification, refuse, store]);

  return {
    set: setOne,
    setMany,
    many,
    race,
    settle,
    takeBack,
    accept,
    refuse,
    lose,
    drafts,
    saveDraft,
    changeDraft: (d: Draft, text: string) => kept.change(d.id, text),
    discardDraft: (d: Draft) => kept.drop(d.id),
  };
}

export type Edits = ReturnType<typeof useEdits>;
