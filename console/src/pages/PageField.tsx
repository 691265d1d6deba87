// One field of a page: its name, what stands in it, and an editor once it is clicked.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useId, useState } from "react";
import type { Column, Page, Person, Row } from "../api/client";
import { CellText } from "../tracker/Cell";
import { CellEditor } from "../tracker/editors/CellEditor";
import { written } from "../tracker/editors/written";

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
  const [draft, setDraft] = useState<string>(); // what is being typed, kept until it is saved
  const [open, setOpen] = useState(false);
  const id = useId();
  const why = page.odd?.[f.name];
  const value = valueOf(page, f);
  const column = f.column ?? figure(f);
  const row = { cells: { [column.name]: value }, odd: f.column && why ? [column.name] : [] } as unknown as Row;
  const was = written(column, value, people);
  const save = async (text: string) => {
    setOpen(false);
    if (text === was) return setDraft(undefined);
    setDraft(text);
    try {
      await onSave(text);
      setDraft(undefined);
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
            column={f.column}
            text={draft ?? was}
            people={people}
            onChange={setDraft}
            onDone={(text) => void save(text)}
            onCancel={() => {
              setOpen(false);
              setDraft(undefined);
            }}
          />
        ) : editable ? (
          <button
            type="button"
            className="page-value"
            onClick={() => setOpen(true)}
            id={`${id}-value`}
            title={t`Edit ${f.name}`}
            aria-labelledby={`${id}-name ${id}-value`}
          >
            <Shown row={row} column={column} names={names} pending={draft} />
          </button>
        ) : (
          <span className="page-value">
            <Shown row={row} column={column} names={names} />
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
