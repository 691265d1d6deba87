// What a file was before it was written over.
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
  if (found.isError) return <ProblemNote error={found.error} />;
  if (!found.data) return <p className="quiet">Loading…</p>;
  if (found.data.length === 0) return <p className="quiet">No earlier versions: it has not been written over.</p>;
  return (
    <ul className="plain" aria-label={`Earlier versions of ${path}`}>
      {found.data.map((v) => (
        <li key={v.version}>
          <a href={`${fileAt(tracker, path)}&version=${v.version}`}>Version {v.version}</a>{" "}
          <span className="quiet">until {when(v.at, tracker)}</span>
        </li>
      ))}
    </ul>
  );
}
