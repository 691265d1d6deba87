// One rule as a sentence whose parts are controls, with what it would do beside it.
import { useParams } from "react-router";
import { EditPage } from "../automation/EditPage";
import { kinds } from "../automation/kinds";
import { beginnings } from "./beginnings";
import { missing } from "./body";
import { RuleMatches } from "./RuleMatches";
import { RuleSentence } from "./RuleSentence";

export default function RulePage() {
  const { rule = "new" } = useParams();
  return (
    <EditPage
      kind={kinds.rule}
      definition={rule}
      begin={(tracker, from) => beginnings(tracker).find((b) => b.id === from)?.body ?? { steps: [] }}
      missing={missing}
      beside={(parts, { tracker }) => <RuleMatches tracker={tracker.id} {...parts} />}
    >
      {(parts) => <RuleSentence {...parts} />}
    </EditPage>
  );
}
