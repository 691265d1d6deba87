// What several selected cells have besides their values: the note on them, how they are set
// off, and what made them as they are.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState, useSyncExternalStore } from "react";
import { Link } from "react-router";
import { api, ask, type CellsTouched, type Column, type Tab, type Tracker } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { useWhen } from "../parts/queries";
import { useKept } from "../parts/useKept";
import { useSettled } from "../parts/useSettled";
import type { Chosen } from "./Grid";
import { mostRows } from "./Beside";
import type { RowStore } from "./rowStore";
import type { Edits } from "./useEdits";

type Props = { store: RowStore; tracker: Tracker; tab: Tab; chosen: Chosen; columns: Column[]; edits: Edits };

/** countOf says how many cells in how many rows are meant. */
export const countOf = ({ rows, columns }: Chosen) => {
  const cells = plural(rows.length * columns.length, { one: "# cell", other: "# cells" });
  const inRows = plural(rows.length, { one: "# row", other: "# rows" });
  return t`${cells} in ${inRows}`;
};

// placeOf names a range by its corners.
export const placeOf = ({ rows, columns }: Chosen) => [rows[0], rows.at(-1), columns[0], columns.at(-1)].join(" ");

// NoteOnAll puts one note on all of the cells, or takes it off them.
export function NoteOnAll({ store, chosen, columns, edits }: Props) {
  useSyncExternalStore(store.subscribeAny, store.changed);
  const kept = useKept<string>(`note ${placeOf(chosen)}`);
  const [draft, setDraft] = useState(kept.read);
  const names = chosen.columns.filter((name) => !columns.find((c) => c.name === name)?.read_only);
  if (names.length === 0 || chosen.rows.length > mostRows) return null;
  const rows = chosen.rows.flatMap((id) => store.row(id) ?? []);
  const notes = new Set(rows.flatMap((row) => names.map((name) => row.notes?.[name] ?? "")));
  const same = notes.size === 1 ? ([...notes][0] ?? "") : "";
  const text = draft ?? same;
  const write = (text: string | undefined) => {
    setDraft(text);
    if (text === undefined) kept.forget();
    else kept.write(text);
  };
  const save = async () => {
    const note = Object.fromEntries(names.map((name) => [name, text.trim()]));
    if (await edits.many(chosen.rows.map((row) => ({ row, notes: note })))) write(undefined);
  };
  const label = t`Note on all of them`;
  return (
    <section>
      <h3>{label}</h3>
      <Input.TextArea
        aria-label={label}
        autoSize={{ minRows: 1, maxRows: 6 }}
        placeholder={notes.size > 1 ? t`Different notes` : t`No note`}
        value={text}
        onChange={(e) => write(e.target.value)}
      />
      <div className="note-buttons">
        {draft !== undefined && draft.trim() !== "" && (notes.size > 1 || draft.trim() !== same) && (
          <Button size="small" type="primary" onClick={() => void save()}>
            {t`Save note`}
          </Button>
        )}
        {text === "" && (notes.size > 1 || same !== "") && (
          <Button size="small" onClick={() => void save()}>
            {t`Delete notes`}
          </Button>
        )}
      </div>
    </section>
  );
}

const mostAsked = 200; // rows, and columns, that are asked about
const rest = 250; // milliseconds after the last change of the selection

// WhyAll tells what the cells hold comes from, and what has changed them.
export function WhyAll({ store, tracker, tab, chosen, columns }: Props) {
  useSyncExternalStore(store.subscribeAny, store.changed);
  const rows = chosen.rows.slice(0, mostAsked);
  const names = chosen.columns.slice(0, mostAsked);
  const ids = names.flatMap((name) => columns.find((c) => c.name === name)?.id ?? []);
  const versions = rows.map((id) => store.row(id)?.version ?? 0).join();
  const asked = useSettled([tab.id, rows.join(), ids.join(), versions].join(" "), rest);
  const why = useQuery({
    queryKey: ["why cells", tracker.id, asked],
    queryFn: () => {
      const [in_ = "", rows = "", columns = ""] = asked.split(" ");
      return ask(
        api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/cells/why", {
          params: {
            path: { tracker: tracker.id, tab: in_ },
            query: { rows: rows.split(","), columns: columns.split(",") },
          },
        }),
      );
    },
    placeholderData: (before) => before,
  });
  if (why.isLoadingError) return <ProblemNote error={why.error} />;
  if (!why.data) return null;
  const made = why.data.sets.filter((s) => s.stand > 0);
  return (
    <>
      {rows.length + names.length < chosen.rows.length + chosen.columns.length && (
        <p className="quiet">
          <Trans>What follows is about the first {mostAsked} rows and columns of them.</Trans>
        </p>
      )}
      <section aria-label={t`Why they are as they are`}>
        <h3>
          <Trans>Why they are as they are</Trans>
        </h3>
        <ul className="plain why-history">
          {made.map((s) => (
            <li key={`${s.seq} ${s.by}`}>
              <div>
                {plural(s.stand, { one: "# cell", other: "# cells" })}: {s.by}
              </div>
              <Origin tracker={tracker} set={s} />
            </li>
          ))}
          {why.data.untouched > 0 && (
            <li>
              {plural(why.data.untouched, {
                one: "# cell: no change is on record",
                other: "# cells: no change is on record",
              })}
            </li>
          )}
        </ul>
      </section>
      <section aria-label={t`History`}>
        <h3>
          <Trans>History</Trans>
        </h3>
        <ul className="plain why-history">
          {why.data.sets.map((s) => (
            <li key={`${s.seq} ${s.by}`}>
              <Origin tracker={tracker} set={s} />
              {s.says.map((says, i) => (
                <div key={i}>{says}</div>
              ))}
              {s.changed > s.says.length && (
                <div className="quiet">{plural(s.changed, { one: "# cell changed", other: "# cells changed" })}</div>
              )}
            </li>
          ))}
        </ul>
      </section>
    </>
  );
}

function Origin({ tracker, set }: { tracker: Tracker; set: CellsTouched }) {
  const when = useWhen();
  return (
    <span className="quiet">
      {when(set.at, tracker.id)}, {set.who}
      {set.run && (
        <>
          ,{" "}
          <Link to={`/t/${tracker.id}/runs/${set.run}`}>
            <Trans>the run</Trans>
          </Link>
        </>
      )}
    </span>
  );
}
