import type { Run } from "../api/client";

const verbs: Record<string, string> = {
  add: "added",
  set: "cells set",
  move: "moved",
  note: "notes",
  look: "looks",
  remove: "removed",
  reshape: "setup",
};

// countWords says how many changes of each kind there were.
export function countWords(counts: Record<string, number> | undefined): string {
  return Object.entries(counts ?? {})
    .map(([kind, n]) => `${n} ${verbs[kind] ?? kind}`)
    .join(", ");
}

export function Outcome({ run }: { run: Run }) {
  if (run.outcome === "failed" || run.outcome === "stopped") return <span className="late">{run.outcome}</span>;
  if (run.outcome === "partly done") return <span className="soon">partly done</span>;
  return (
    <span className={run.outcome === "done" ? undefined : "quiet"}>
      {run.outcome}
      {run.undone && ", undone"}
    </span>
  );
}
