// What stands beside the cell at hand: why an edit of it was not saved and what can be done
// about it, or where its row has gone while somebody types in it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../api/client";
import type { Edit } from "./editQueue";
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
