// The line of a sentence that says which rows are meant.
import { t } from "@lingui/core/macro";
import { Line } from "./Line";
import type { Person, Tab, Tracker } from "../api/client";
import { columnsOf, text, without } from "../rules/body";
import { ConditionEditor } from "./ConditionEditor";
import type { Parts } from "./DefinitionEditor";

type Props = Parts & { tracker: Tracker; people: Person[]; tabs: Tab[]; edits?: boolean };

export function ConditionLine({ tracker, people, tabs, edits, body, setBody }: Props) {
  return (
    <Line word={t`If`}>
      <ConditionEditor
        tracker={tracker.id}
        tabs={tabs.map((one) => one.name)}
        columns={columnsOf(tabs)}
        people={people}
        edits={edits}
        label={t`Condition`}
        value={text(body.where)}
        onChange={(where) => setBody(without({ ...body, where }))}
      />
    </Line>
  );
}
