// What was typed and could not be saved: why, and what can be done about it. It stays, over
// reloads too, until it is saved after all or its writer discards it.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Input } from "antd";
import { useState } from "react";
import { orBlank } from "../parts/text";
import type { Edit } from "./editQueue";
import { typed } from "./format";
import { sayOdd } from "./remarks";
import type { Edits } from "./useEdits";

type Props = { edits: Pick<Edits, "refused" | "retry" | "discard"> };

export function Unsaved({ edits }: Props) {
  if (edits.refused.length === 0) return null;
  return (
    <section className="unsaved" aria-label={t`Not saved`} role="status">
      <h2>
        <Trans>Not saved</Trans>
      </h2>
      <ul className="plain">
        {edits.refused.map((e) => (
          <UnsavedEdit key={e.key} edit={e} edits={edits} />
        ))}
      </ul>
    </section>
  );
}

function UnsavedEdit({ edit, edits }: Props & { edit: Edit }) {
  const [one] = edit.cells;
  const is = one && edit.cells.length === 1 ? typed(one.value) : undefined;
  const [text, setText] = useState(is);
  return (
    <li>
      <div>
        <b>{titleOf(edit)}</b>
      </div>
      {text !== undefined ? (
        <Input.TextArea
          aria-label={t`Not saved: ${titleOf(edit)}`}
          autoSize={{ minRows: 1, maxRows: 4 }}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      ) : (
        <pre className="unsaved-block">{edit.cells.map((c) => `${c.column}: ${typed(c.value)}`).join("\n")}</pre>
      )}
      <WhyUnsaved edit={edit} />
      <Ways edit={edit} edits={edits} text={text === is ? undefined : text} />
    </li>
  );
}

/** titleOf names what was edited. */
export function titleOf({ cells }: Edit): string {
  const [one] = cells;
  if (one && cells.length === 1) return `${one.label}: ${one.column}`;
  const rows = new Set(cells.map((c) => c.row)).size;
  return t`${plural(cells.length, { one: "# cell", other: "# cells" })} of ${plural(rows, { one: "# row", other: "# rows" })}`;
}

/** WhyUnsaved tells why an edit was refused: both values where somebody else was in the cell. */
export function WhyUnsaved({ edit }: { edit: Edit }) {
  const { why = "", odd, theirs } = edit.refused ?? {};
  if (theirs)
    return (
      <ul className="plain late">
        {theirs.map((c) => {
          const mine = edit.cells.find((m) => m.row === c.row && m.column === c.column);
          return (
            <li key={c.row + c.column}>
              <Trans>
                Someone else changed {c.column} of {c.label} from “{orBlank(mine?.before)}” to “{orBlank(c.value)}”.
                Yours: “{orBlank(mine?.value)}”.
              </Trans>
            </li>
          );
        })}
      </ul>
    );
  if (odd)
    return (
      <ul className="plain late">
        {odd.map((o) => (
          <li key={o.row + o.column}>
            <Trans>
              {sayOdd(o)}. It would replace {o.before}.
            </Trans>
          </li>
        ))}
      </ul>
    );
  return <p className="late unsaved-why">{why}</p>;
}

/** Ways are the buttons for what can be done with an edit that was refused. */
export function Ways({ edit, edits, text }: Pick<Props, "edits"> & { edit: Edit; text?: string }) {
  const { odd, theirs } = edit.refused ?? {};
  const asked = text === undefined; // it is sent as it was
  return (
    <div className="unsaved-buttons">
      {theirs && (
        <Button size="small" type="primary" onClick={() => edits.retry(edit, { text, overwrite: true })}>
          {t`Use mine`}
        </Button>
      )}
      {!theirs && !(odd && asked) && (
        <Button size="small" type="primary" onClick={() => edits.retry(edit, { text })}>
          {t`Retry`}
        </Button>
      )}
      {odd && asked && (
        <Button size="small" onClick={() => edits.retry(edit, { keepOdd: true })}>
          {t`Keep as written`}
        </Button>
      )}
      <Button size="small" onClick={() => edits.discard(edit)}>
        {theirs ? t`Keep theirs` : t`Discard`}
      </Button>
    </div>
  );
}
