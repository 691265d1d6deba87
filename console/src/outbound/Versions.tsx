// What a file was before it was written over.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { fileAt } from "./fileAt";
import { ProblemNote } from "../parts/ProblemNote";
import { useWhen } from "../parts/queries";

export function Versions({ tracker, path }: { tracker: string; path: string }) {
  const when = useWhen();
  const found = useQuery({
    queryKey: ["outbound", tracker, "versions", path],
    queryFn: () =>
      ask(api.GET("/api/v1/trackers/{tracker}/outbound/versions", { params: { path: { tracker }, query: { path } } })),
  });
  if (found.isLoadingError) return <ProblemNote error={found.error} />;
  if (!found.data)
    return (
      <p className="quiet">
        <Trans>Loading…</Trans>
      </p>
    );
  if (found.data.length === 0)
    return (
      <p className="quiet">
        <Trans>No earlier versions: it has not been written over.</Trans>
      </p>
    );
  return (
    <ul className="plain" aria-label={t`Earlier versions of ${path}`}>
      {found.data.map((v) => (
        <li key={v.version}>
          <a href={`${fileAt(tracker, path)}&version=${v.version}`}>
            <Trans>Version {v.version}</Trans>
          </a>{" "}
          <span className="quiet">
            <Trans>until {when(v.at, tracker)}</Trans>
          </span>
        </li>
      ))}
    </ul>
  );
}
