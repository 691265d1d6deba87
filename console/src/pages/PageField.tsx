// One field of a page: its name, what stands in it, and an editor once it is clicked.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useId, useState } from "react";
import type { Column, Page, Person, Row } from "../api/client";
import { useKept } from "../parts/useKept";
import { CellText } from "../tracker/Cell";
import { CellEditor } from "../tracker/editors/CellEditor";
import { written } from "../tracker/editors/written";

type Draft = { from: string; text: string }; // what stood there when one began, and what is typed

type Field = NonNullable<Page["fields"]>[number];

export const valueOf = (page: Page, f: Field): unknown =>
  f.part === "fact" ? page.facts[f.name] : f.part === "own" ? page.own[f.name] : page.figures[f.name];

type Props = {
  page: Page;
  field: Field;
  names: Map<string, string>;
  people: Person[];
  mayEdit: boolean;
  onSave: (value: string) => Promise<void>;
};

export function PageField({ page, field: f, names, people, mayEdit, onSave }: Props) {
  const kept = useKept<Draft>(`field ${page.pattern_id} ${page.row} ${f.name}`);
  const [draft, setDraft] = useState(kept.read); // until it is saved
  const [open, setOpen] = useState(draft !== undefined);
  const [told, setTold] = useState<string>(); // what somebody else has made of it, once that was said
  const id = useId();
  const why = page.odd?.[f.name];
  const value = valueOf(page, f);
  const column = f.column ?? figure(f);
  const row = { cells: { [column.name]: value }, odd: f.column && why ? [column.name] : [] } as unknown as Row;
  const was = written(column, value, people);
  const begin = () => {
    setDraft({ from: was, text: was });
    setOpen(true);
  };
  const write = (text: string) => {
    const now = { from: draft?.from ?? was, text };
    setDraft(now);
    kept.write(now);
  };
  const discard = () => {
    kept.forget();
    setDraft(undefined);
    setTold(undefined);
    setOpen(false);
  };
  const save = async (text: string) => {
    const from = draft?.from ?? was;
    if (text === from || text === was) return discard();
    write(text);
    if (from !== was && told !== was) return setTold(was); // not before one has seen theirs
    setOpen(false);
    try {
      await onSave(text);
      discard();
    } catch {
      setOpen(true); // what was refused stays to be put right
    }
  };
  const editable = mayEdit && !f.read_only && f.column !== undefined;
  return (
    <div className="page-field">
      <dt id={`${id}-name`}>{f.name}</dt>
      <dd>
        {open && f.column ? (
          <CellEditor
            key={told}
            column={f.column}
            text={draft?.text ?? was}
            people={people}
            onChange={write}
            onDone={(text) => void save(text)}
            onCancel={discard}
          />
        ) : editable ? (
          <button
            type="button"
            className="page-value"
            onClick={begin}
            id={`${id}-value`}
            title={t`Edit ${f.name}`}
            aria-labelledby={`${id}-name ${id}-value`}
          >
            <Shown row={row} column={column} names={names} pending={draft?.text} />
          </button>
        ) : (
          <span className="page-value">
            <Shown row={row} column={column} names={names} />
          </span>
        )}
        {open && told !== undefined && (
          <span className="page-why" role="alert">
            {told === ""
              ? t`Someone else cleared this. Press Enter to save yours or Escape to keep theirs.`
              : t`Someone else changed this to “${told}”. Press Enter to save yours or Escape to keep theirs.`}
          </span>
        )}
        {why && <span className="page-why">{why}</span>}
        {f.note && (
          <span className="page-note">
            <Trans>Note: {f.note}</Trans>
          </span>
        )}
      </dd>
    </div>
  );
}

function Shown(props: { row: Row; column: Column; names: Map<string, string>; pending?: string }) {
  const v = props.row.cells[props.column.name];
  if (props.pending === undefined && (v === null || v === undefined || v === ""))
    return <span className="quiet">–</span>;
  return <CellText {...props} />;
}

// figure gives a figure the look of a column of its type.
const figure = (f: Field): Column => ({
  id: f.name,
  name: f.name,
  type: f.type ?? "text",
  format: f.format,
  bad_input: "mark",
});
