import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Run } from "../api/client";

const counted: Record<string, (n: number) => string> = {
  add: (n) => t`${plural(n, { one: "# row", other: "# rows" })} added`,
  set: (n) => t`${plural(n, { one: "# cell", other: "# cells" })} set`,
  move: (n) => t`${plural(n, { one: "# row", other: "# rows" })} moved`,
  note: (n) => t`${plural(n, { one: "# note", other: "# notes" })} changed`,
  look: (n) => t`${plural(n, { one: "# style", other: "# styles" })} changed`,
  remove: (n) => t`${plural(n, { one: "# row", other: "# rows" })} deleted`,
  reshape: (n) => plural(n, { one: "# setup change", other: "# setup changes" }),
};

/** countWords says how many changes of each kind there were. */
export function countWords(counts: Record<string, number> | undefined): string {
  return Object.entries(counts ?? {})
    .map(([kind, n]) => counted[kind]?.(n) ?? `${n} ${kind}`)
    .join(", ");
}

export function Outcome({ run }: { run: Run }) {
  if (run.outcome === "failed" || run.outcome === "stopped") return <span className="late">{run.outcome}</span>;
  if (run.outcome === "partly done")
    return (
      <span className="soon">
        <Trans>partly done</Trans>
      </span>
    );
  return (
    <span className={run.outcome === "done" ? undefined : "quiet"}>
      {run.outcome}
      {run.undone && t`, undone`}
    </span>
  );
}
