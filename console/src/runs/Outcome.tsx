import type { Run } from "../api/client";

// One thing, how several are called, and what became of it.
const words: Record<string, [one: string, several: string, done: string]> = {
  add: ["row", "rows", "added"],
  set: ["cell", "cells", "set"],
  move: ["row", "rows", "moved"],
  note: ["note", "notes", "changed"],
  look: ["style", "styles", "changed"],
  remove: ["row", "rows", "deleted"],
  reshape: ["setup change", "setup changes", ""],
};

/** countWords says how many changes of each kind there were. */
export function countWords(counts: Record<string, number> | undefined): string {
  return Object.entries(counts ?? {})
    .map(([kind, n]) => {
      const [one, several, done] = words[kind] ?? [kind, kind, ""];
      return `${n} ${n === 1 ? one : several} ${done}`.trim();
    })
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
