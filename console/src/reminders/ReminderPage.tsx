// One reminder or round, edited as a sentence.
import { useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";
import { DefinitionEditor } from "../automation/DefinitionEditor";
import { get, kinds, list } from "../automation/kinds";
import { Matches } from "../automation/Matches";
import { api, ask } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { usePeople, useTrackers } from "../parts/queries";
import { reminderBeginnings, reminderLacks, roundBeginnings, roundLacks } from "./body";
import { ReminderSentence } from "./ReminderSentence";
import { RoundSentence } from "./RoundSentence";

export default function ReminderPage() {
  const { tracker: name = "", kind: called = "reminder", definition = "new" } = useParams();
  const kind = called === "round" ? kinds.round : kinds.reminder;
  const [query] = useSearchParams();
  const trackers = useTrackers();
  const people = usePeople();
  const tracker = trackers.data?.find((t) => t.id === name || t.name === name);
  const id = tracker?.id ?? "";
  const saved = useQuery({
    queryKey: [kind.name, id, definition],
    queryFn: () => get(kind, id, definition),
    enabled: tracker !== undefined && definition !== "new",
    staleTime: Infinity, // what one edits is not changed under one's hands: saving asks
  });
  const reminders = useQuery({
    queryKey: ["reminders", id],
    queryFn: () => list(kinds.reminder, id),
    enabled: id !== "",
  });
  const rules = useQuery({ queryKey: ["rules", id], queryFn: () => list(kinds.rule, id), enabled: id !== "" });
  const tallies = useQuery({
    queryKey: ["tallies", id],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/tallies", { params: { path: { tracker: id } } })),
    enabled: id !== "",
  });
  if (saved.isError) {
    return (
      <div className="page">
        <ProblemNote error={saved.error} />
      </div>
    );
  }
  if (!tracker || (definition !== "new" && !saved.data)) return <div className="page quiet">Loading…</div>;
  const from = query.get("from") ?? "empty";
  const begins = kind.name === "round" ? roundBeginnings : reminderBeginnings(tracker);
  const writing = (rules.data ?? []).filter((r) => JSON.stringify(r.body.steps ?? []).includes('"write"'));
  return (
    <DefinitionEditor
      key={kind.name + definition + from}
      kind={kind}
      tracker={tracker}
      saved={saved.data}
      begin={begins.find((b) => b.id === from)?.body ?? {}}
      keep={`new ${from}`}
      missing={kind.name === "round" ? roundLacks : reminderLacks}
      beside={({ trial }) => trial.data && <Matches tracker={tracker.id} tried={trial.data} />}
    >
      {(parts) =>
        kind.name === "round" ? (
          <RoundSentence
            {...parts}
            reminders={reminders.data ?? []}
            attachable={[...writing, ...(tallies.data ?? [])]}
          />
        ) : (
          <ReminderSentence {...parts} tracker={tracker} people={people.data ?? []} />
        )
      }
    </DefinitionEditor>
  );
}
