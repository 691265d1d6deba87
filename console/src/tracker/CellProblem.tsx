// What stands beside the cell at hand: why an edit of it was not saved and what can be done
// about it, or where its row has gone while somebody types in it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "antd";
import type { Column, Row } from "../api/client";
import type { Edit } from "./editQueue";
import { typed } from "./format";
import { Ways, WhyUnsaved } from "./Unsaved";
import type { Edits } from "./useEdits";

export function CellProblem({ edit, edits }: { edit: Edit; edits: Edits }) {
  return (
    <>
      <b>
        <Trans>Not saved</Trans>
      </b>
      <WhyUnsaved edit={edit} />
      <Ways edit={edit} edits={edits} />
    </>
  );
}

/** OddCell says why a cell does not fit, and mends it with what is near. */
export function OddCell({ row, column, edits }: { row: Row; column: Column; edits: Edits }) {
  const fit = row.odd_fit?.[column.name];
  return (
    <>
      <span>
        <Trans>
          “{typed(row.cells[column.name])}” {row.odd_why?.[column.name] ?? t`does not fit ${column.name}`}
        </Trans>
      </span>
      {fit !== undefined && (
        <div className="unsaved-buttons">
          <Button size="small" type="primary" onClick={() => edits.set({ row, column, value: fit })}>
            {t`Change to ${typed(fit)}`}
          </Button>
        </div>
      )}
    </>
  );
}

export function LeftWhileTyping({ was, now }: { was: Row; now: Row | undefined }) {
  return (
    <span role="status">
      {!now ? (
        <Trans>{was.label} was deleted while you type. What you type is kept.</Trans>
      ) : now.tab_id !== was.tab_id ? (
        <Trans>
          {now.label} moved to {now.tab} while you type. Enter saves your text there.
        </Trans>
      ) : (
        <Trans>{now.label} is not among the rows shown any more. Enter saves your text.</Trans>
      )}{" "}
      {t`Esc discards it.`}
    </span>
  );
}
