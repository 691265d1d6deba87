// The page on which a definition is made or changed: finds its tracker and what is saved of
// it, and leaves the rest to its editor.
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useParams, useSearchParams } from "react-router";
import { problemOf, type Person, type Tracker } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { useKept } from "../parts/useKept";
import { usePeople, useTracker, useTrackers } from "../parts/queries";
import { DefinitionEditor, type Beside, type Parts } from "./DefinitionEditor";
import { draftName, type Draft } from "./useDraft";
import { get, type Body, type Kind } from "./kinds";

export type Context = { tracker: Tracker; trackers: Tracker[]; people: Person[] };

type Props = {
  kind: Kind;
  definition: string; // its id, or "new"
  begin: (tracker: Tracker, from: string) => Body;
  missing: (body: Body) => string[];
  beside?: (parts: Beside, context: Context) => ReactNode;
  children: (parts: Parts & Context) => ReactNode;
};

export function EditPage({ kind, definition, begin, missing, beside, children }: Props) {
  const { tracker: name = "" } = useParams();
  const [query] = useSearchParams();
  const trackers = useTrackers();
  const people = usePeople();
  const tracker = useTracker(name);
  const saved = useQuery({
    queryKey: [kind.name, tracker?.id, definition],
    queryFn: () => get(kind, tracker?.id ?? "", definition),
    enabled: tracker !== undefined && definition !== "new",
  });
  const kept = useKept<Draft>(draftName(kind, tracker?.id ?? "", definition)).read()?.from;
  const gone = saved.isError && problemOf(saved.error).status === 404;
  const found = saved.data ?? (gone ? kept : undefined);
  if (saved.isError && !found) {
    return (
      <div className="page">
        <ProblemNote error={saved.error} />
      </div>
    );
  }
  if (!tracker || (definition !== "new" && !found))
    return (
      <div className="page quiet">
        <Trans>Loading…</Trans>
      </div>
    );
  const context = { tracker, trackers: trackers.data ?? [], people: people.data ?? [] };
  const from = query.get("from") ?? "empty";
  return (
    <DefinitionEditor
      key={tracker.id + kind.name + definition + from}
      kind={kind}
      tracker={tracker}
      saved={found}
      gone={gone}
      begin={begin(tracker, from)}
      keep={`new ${from}`}
      missing={missing}
      beside={(parts) => beside?.(parts, context)}
    >
      {(parts) => children({ ...parts, ...context })}
    </DefinitionEditor>
  );
}
