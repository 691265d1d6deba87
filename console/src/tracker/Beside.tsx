// What a cell has besides its value: the note on it, and how it is set off.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, Input } from "antd";
import { useRef, useState } from "react";
import { api, ask, type Column, type Row, type Tracker } from "../api/client";
import type { components } from "../api/schema";
import { useDark } from "../parts/useMedia";
import { useKept } from "../parts/useKept";
import { washes, washOf } from "../theme";
import { colourName, marks, parseLook, wordOf, writeLook, type CellLook } from "./cellLook";
import type { Chosen } from "./Grid";
import type { Edits } from "./useEdits";

type Props = { tracker: Tracker; row: Row; column: Column; edits: Edits };

async function edit({ tracker, row, edits }: Props, body: components["schemas"]["RowEdit"]): Promise<boolean> {
  try {
    edits.accept(
      await ask(
        api.PATCH("/api/v1/trackers/{tracker}/tabs/{tab}/rows/{row}", {
          params: {
            path: { tracker: tracker.id, tab: row.tab_id, row: row.id },
            header: { "If-Match": `"${row.version}"` },
          },
          body,
        }),
      ),
    );
    return true;
  } catch (err) {
    edits.refuse(err);
    return false;
  }
}

export function NoteOn(props: Props) {
  const { row, column } = props;
  const before = row.notes?.[column.name] ?? "";
  // undefined: nobody has typed here, so the note is shown as it is now
  const kept = useKept<{ from: string; text: string }>(`note ${row.id} ${column.id}`);
  const [draft, setDraft] = useState(kept.read);
  const text = draft?.text ?? before;
  const overtaken = draft !== undefined && draft.from !== before && draft.text.trim() !== before;
  const write = (text: string) => {
    const next = { from: draft?.from ?? before, text };
    setDraft(next);
    if (text.trim() === before) kept.forget();
    else kept.write(next);
  };
  const discard = () => {
    kept.forget();
    setDraft(undefined);
  };
  const keep = async () => {
    if (await edit(props, { notes: { [column.name]: text.trim() } })) discard();
  };
  return (
    <section>
      <h3>
        <Trans>Note on {column.name}</Trans>
      </h3>
      <Input.TextArea
        aria-label={t`Note on ${column.name}`}
        autoSize={{ minRows: 1, maxRows: 6 }}
        placeholder={t`No note`}
        readOnly={column.read_only}
        value={text}
        onChange={(e) => write(e.target.value)}
      />
      {overtaken && (
        <p className="soon">
          <Trans>Someone else changed this note: {before === "" ? t`there is none now` : `“${before}”`}.</Trans>
        </p>
      )}
      {text.trim() !== before && (
        <div className="note-buttons">
          <Button size="small" type="primary" onClick={() => void keep()}>
            {text.trim() === "" ? t`Delete note` : t`Save note`}
          </Button>
          <Button size="small" onClick={discard}>
            {t`Discard`}
          </Button>
        </div>
      )}
    </section>
  );
}

type Mark = keyof typeof marks;

// mostRows is how many rows one edit may set.
export const mostRows = 10_000;

// LookOf sets the chosen cells off, or all cells of their rows that the tab shows. What one
// clicks is shown at once; quick clicks are sent one after the other, each upon the last.
export function LookOf({
  row,
  column,
  columns,
  chosen,
  edits,
}: Omit<Props, "tracker"> & { chosen: Chosen; columns: Column[] }) {
  const [whole, setWhole] = useState(false);
  const isDark = useDark();
  const several = chosen.rows.length * chosen.columns.length;
  const of = several > 1 ? plural(several, { one: "# cell", other: "# cells" }) : column.name;
  const asked = useRef<CellLook>(undefined); // while something is under way
  const turn = useRef(Promise.resolve());
  const [shown, setShown] = useState<CellLook>();
  const now = shown ?? parseLook(row.looks?.[column.name]);
  const keep = (change: CellLook) => {
    const next = { ...now, ...asked.current, ...change };
    const names = whole ? columns.map((c) => c.name) : several > 1 ? chosen.columns : [column.name];
    const looks = Object.fromEntries(names.map((n) => [n, writeLook(next)]));
    asked.current = next;
    setShown(next);
    turn.current = turn.current.then(async () => {
      await edits.many(chosen.rows.map((row) => ({ row, looks })));
      if (asked.current !== next) return;
      asked.current = undefined;
      setShown(undefined);
    });
  };
  if (chosen.rows.length > mostRows)
    return (
      <p className="quiet">
        <Trans>Choose at most {mostRows} rows to set them off.</Trans>
      </p>
    );
  const others = now.fill && !(wordOf(now.fill) in washes) ? [now.fill] : [];
  return (
    <section className="look" aria-label={t`Style of ${of}`}>
      <h3>
        <Trans>Style of {of}</Trans>
      </h3>
      <div className="look-fills" role="group" aria-label={t`Fill`}>
        {Object.entries(washes).map(([word, [paper]]) => (
          <button
            key={word}
            type="button"
            title={colourName(word)}
            aria-label={colourName(word)}
            aria-pressed={now.fill === paper}
            style={washOf(word, isDark)}
            onClick={() => keep({ fill: paper })}
          >
            {now.fill === paper ? "✓" : t`a`}
          </button>
        ))}
        {others.map((fill) => (
          <button key={fill} type="button" title={fill} aria-label={fill} aria-pressed style={{ background: fill }} />
        ))}
        <button
          type="button"
          aria-pressed={!now.fill && !now.ink}
          onClick={() => keep({ fill: undefined, ink: undefined })}
        >
          <Trans>none</Trans>
        </button>
      </div>
      <div className="look-marks">
        {Object.entries(marks).map(([m, name]) => (
          <Checkbox key={m} checked={now[m as Mark] ?? false} onChange={(e) => keep({ [m]: e.target.checked })}>
            {name}
          </Checkbox>
        ))}
      </div>
      <Checkbox checked={whole} onChange={(e) => setWhole(e.target.checked)}>
        <Trans>Apply to whole {chosen.rows.length > 1 ? t`rows` : t`row`}</Trans>
      </Checkbox>
    </section>
  );
}
