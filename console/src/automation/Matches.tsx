// The rows that a definition matches now, the first of them, and those that were skipped.
import { Link } from "react-router";
import type { Tried } from "../api/client";
import { plural } from "../parts/text";

export function Matches({ tracker, tried }: { tracker: string; tried: Tried }) {
  if (tried.matched === undefined) return null;
  const skipped = tried.skipped ?? 0;
  return (
    <>
      <h2>{tried.matched === 0 ? "Matches no rows now" : `Matches ${plural(tried.matched, "row")} now`}</h2>
      <ul className="plain">
        {tried.rows.map((r) => (
          <li key={r.id}>
            <Link to={`/t/${tracker}/${r.tab_id}?row=${r.id}`}>{r.label || r.id}</Link>{" "}
            <span className="quiet">{[r.tab, ...(r.to ?? [])].join(", ")}</span>
          </li>
        ))}
      </ul>
      {tried.matched > tried.rows.length && (
        <p className="quiet">and {plural(tried.matched - tried.rows.length, "more row")}</p>
      )}
      {skipped > 0 && (
        <>
          <h3>{plural(skipped, "row")} skipped</h3>
          <ul className="plain">
            {tried.passed_over.map((p) => (
              <li key={p.row + p.label}>{p.why ? `${p.label}: ${p.why}` : p.label}</li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
