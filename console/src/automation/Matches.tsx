// The rows that a definition matches now, the first of them, and those that were skipped.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Link } from "react-router";
import type { Tried } from "../api/client";

export function Matches({ tracker, tried }: { tracker: string; tried: Tried }) {
  if (tried.matched === undefined) return null;
  const skipped = tried.skipped ?? 0;
  return (
    <>
      <h2>
        {tried.matched === 0
          ? t`Matches no rows now`
          : t`Matches ${plural(tried.matched, { one: "# row", other: "# rows" })} now`}
      </h2>
      <ul className="plain">
        {tried.rows.map((r) => (
          <li key={r.id}>
            <Link to={`/t/${tracker}/${r.tab_id}?row=${r.id}`}>{r.label || r.id}</Link>{" "}
            <span className="quiet">{[r.tab, ...(r.to ?? [])].join(", ")}</span>
          </li>
        ))}
      </ul>
      {tried.matched > tried.rows.length && (
        <p className="quiet">
          <Trans>and {plural(tried.matched - tried.rows.length, { one: "# more row", other: "# more rows" })}</Trans>
        </p>
      )}
      {skipped > 0 && (
        <>
          <h3>
            <Trans>{plural(skipped, { one: "# row", other: "# rows" })} skipped</Trans>
          </h3>
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
