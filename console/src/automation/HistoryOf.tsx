// Who changed a definition, when and how; asked for once it is opened.
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ProblemNote } from "../parts/ProblemNote";
import { useWhen } from "../parts/queries";
import { history, type Kind } from "./kinds";

export function HistoryOf({ kind, tracker, definition }: { kind: Kind; tracker: string; definition: string }) {
  const when = useWhen();
  const [open, setOpen] = useState(false);
  const changes = useQuery({
    queryKey: ["history of", kind.name, tracker, definition],
    queryFn: () => history(kind, tracker, definition),
    enabled: open,
  });
  return (
    <details className="history-of" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        <Trans>History of changes</Trans>
      </summary>
      {changes.isError && <ProblemNote error={changes.error} />}
      {open && changes.isPending && (
        <p className="quiet">
          <Trans>Loading…</Trans>
        </p>
      )}
      <ul className="plain">
        {changes.data?.map((c) => (
          <li key={c.seq}>
            <span className="quiet">
              <Trans>
                {when(c.at, tracker)}, {c.who}, change set {c.seq}
              </Trans>
            </span>
            {c.says.map((line) => (
              <div key={line}>{line}</div>
            ))}
          </li>
        ))}
      </ul>
    </details>
  );
}
