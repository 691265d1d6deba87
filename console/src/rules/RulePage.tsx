// One rule as a sentence whose parts are controls, with what it would do beside it.
import { useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";
import { DefinitionEditor } from "../automation/DefinitionEditor";
import { get, kinds } from "../automation/kinds";
import { ProblemNote } from "../parts/ProblemNote";
import { usePeople, useTrackers } from "../parts/queries";
import { beginnings } from "./beginnings";
import { missing } from "./body";
import { RuleMatches } from "./RuleMatches";
import { RuleSentence } from "./RuleSentence";

export default function RulePage() {
  const { tracker: name = "", rule = "new" } = useParams();
  const [query] = useSearchParams();
  const trackers = useTrackers();
  const people = usePeople();
  const tracker = trackers.data?.find((t) => t.id === name || t.name === name);
  const saved = useQuery({
    queryKey: ["rule", tracker?.id, rule],
    queryFn: () => get(kinds.rule, tracker?.id ?? "", rule),
    enabled: tracker !== undefined && rule !== "new",
    staleTime: Infinity, // what one edits is not changed under one's hands: saving asks
  });
  if (saved.isError) {
    return (
      <div className="page">
        <ProblemNote error={saved.error} />
      </div>
    );
  }
  if (!tracker || (rule !== "new" && !saved.data)) return <div className="page quiet">Loading…</div>;
  const from = query.get("from") ?? "empty";
  return (
    <DefinitionEditor
      key={tracker.id + rule + from}
      kind={kinds.rule}
      tracker={tracker}
      saved={saved.data}
      begin={beginnings(tracker).find((b) => b.id === from)?.body ?? { steps: [] }}
      keep={`new ${from}`}
      missing={missing}
      beside={(parts) => <RuleMatches tracker={tracker.id} {...parts} />}
    >
      {(parts) => (
        <RuleSentence tracker={tracker} trackers={trackers.data ?? []} people={people.data ?? []} {...parts} />
      )}
    </DefinitionEditor>
  );
}
