// One reminder or round, edited as a sentence.
import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, ask } from "../api/client";
import { EditPage } from "../automation/EditPage";
import { kinds, list } from "../automation/kinds";
import { Matches } from "../automation/Matches";
import { reminderBeginnings, reminderLacks, roundBeginnings, roundLacks } from "./body";
import { Emails } from "./Emails";
import { ReminderSentence } from "./ReminderSentence";
import { RoundSentence } from "./RoundSentence";

export default function ReminderPage() {
  const { tracker = "", kind = "reminder", definition = "new" } = useParams();
  if (kind === "round") return <RoundPage tracker={tracker} definition={definition} />;
  return (
    <EditPage
      kind={kinds.reminder}
      definition={definition}
      begin={(t, from) => reminderBeginnings(t).find((b) => b.id === from)?.body ?? {}}
      missing={reminderLacks}
      beside={(parts, context) => (
        <>
          <Emails {...parts} tracker={context.tracker.id} kind="reminder" />
          {parts.trial.data && <Matches tracker={context.tracker.id} tried={parts.trial.data} />}
        </>
      )}
    >
      {(parts) => <ReminderSentence {...parts} />}
    </EditPage>
  );
}

function RoundPage({ tracker, definition }: { tracker: string; definition: string }) {
  const reminders = useQuery({ queryKey: ["reminders", tracker], queryFn: () => list(kinds.reminder, tracker) });
  const rules = useQuery({ queryKey: ["rules", tracker], queryFn: () => list(kinds.rule, tracker) });
  const tallies = useQuery({
    queryKey: ["tallies", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/tallies", { params: { path: { tracker } } })),
  });
  const writing = (rules.data ?? []).filter((r) => JSON.stringify(r.body.steps ?? []).includes('"write"'));
  return (
    <EditPage
      kind={kinds.round}
      definition={definition}
      begin={(_, from) => roundBeginnings.find((b) => b.id === from)?.body ?? {}}
      missing={roundLacks}
      beside={(parts, context) => <Emails {...parts} tracker={context.tracker.id} kind="round" />}
    >
      {(parts) => (
        <RoundSentence {...parts} reminders={reminders.data ?? []} attachable={[...writing, ...(tallies.data ?? [])]} />
      )}
    </EditPage>
  );
}
