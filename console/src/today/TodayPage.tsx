// The first page: what is overdue and whose, what runs next, what failed, and
// what the next round will send to whom.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask, type Run, type Today } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { useTrackers, useWhen } from "../parts/queries";
import { TodayTallies } from "../tallies/TodayTallies";
import { Overdue } from "./Overdue";
import { NextRounds } from "./NextRounds";
import { Greeting } from "../start/Greeting";
import { useMay } from "../parts/may";
import "./today.css";

export default function TodayPage() {
  const today = useQuery({ queryKey: ["today"], queryFn: () => ask(api.GET("/api/v1/today")) });
  const trackers = useTrackers();
  const may = useMay();
  if (today.isPending)
    return (
      <div className="page quiet">
        <Trans>Loading…</Trans>
      </div>
    );
  if (today.isLoadingError)
    return (
      <div className="page">
        <ProblemNote error={today.error} />
      </div>
    );
  if (trackers.data?.length === 0) {
    return (
      <div className="page">
        <h1>
          <Trans>Welcome to Kavlo</Trans>
        </h1>
        <Greeting keep={may.keep} />
      </div>
    );
  }
  const one = today.data;
  const day = new Intl.DateTimeFormat(undefined, { weekday: "long", day: "numeric", month: "long" }).format(
    new Date(one.day),
  );
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Today</Trans>
        </h1>
        <span className="quiet">{day}</span>
      </header>
      <p className="today-sum">{summary(one)}</p>
      <div className="today">
        <div>
          <Notices notices={one.notices} />
          <Overdue held={one.overdue} nobody={one.nobody} more={one.more.overdue + one.more.nobody} />
          <Failed runs={one.failed} />
        </div>
        <div>
          <Whose people={one.people} />
          <Held held={one.held} />
          <NextRounds rounds={one.rounds} />
          <Clock next={one.next} />
          <Waiting mails={one.waiting} />
        </div>
      </div>
      {trackers.data?.map((x) => (
        <TodayTallies key={x.id} tracker={x.id} />
      ))}
    </div>
  );
}

function summary(one: Today): string {
  const rows = new Set([...one.overdue, ...one.nobody].map((h) => h.row)).size + one.more.overdue + one.more.nobody;
  const parts = [
    rows === 0
      ? t`Nothing is overdue`
      : t`${plural(rows, { one: "# row", other: "# rows" })} overdue, ${plural(one.people.length, { one: "# person", other: "# people" })}`,
  ];
  parts.push(
    one.failed.length === 0
      ? t`nothing failed this week`
      : t`${plural(one.failed.length, { one: "# run", other: "# runs" })} failed this week`,
  );
  if (one.notices.length > 0)
    parts.push(t`${plural(one.notices.length, { one: "# thing", other: "# things" })} about the service to look at`);
  if (one.held.length > 0) parts.push(t`${plural(one.held.length, { one: "# conflict", other: "# conflicts" })} open`);
  if (one.waiting.length > 0)
    parts.push(t`${plural(one.waiting.length, { one: "# email", other: "# emails" })} not delivered`);
  return parts.join("; ") + ".";
}

function Whose({ people }: { people: Today["people"] }) {
  const most = Math.max(1, ...people.map((p) => p.rows));
  return (
    <section className="section">
      <h2>
        <Trans>By person</Trans>
      </h2>
      {people.length === 0 && (
        <p className="quiet">
          <Trans>Nothing is overdue.</Trans>
        </p>
      )}
      <ul className="plain">
        {people.map((p) => (
          <li key={p.address} className="load">
            <span>{p.name}</span>
            <span className="load-bar" aria-hidden="true">
              <span style={{ width: `${(100 * p.rows) / most}%` }} />
            </span>
            <span className="load-count">{plural(p.rows, { one: "# row", other: "# rows" })}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Clock({ next }: { next: Today["next"] }) {
  const when = useWhen();
  return (
    <section className="section">
      <h2>
        <Trans>Scheduled</Trans>
      </h2>
      {next.length === 0 && (
        <p className="quiet">
          <Trans>Nothing is scheduled.</Trans>
        </p>
      )}
      <ul className="plain">
        {next.map((c) => (
          <li key={c.tracker_id + c.kind + c.name} className="clocked">
            <span className="clocked-at">{when(c.next, c.tracker_id)}</span>
            <span>
              {c.name}{" "}
              <span className="quiet">
                ({c.kind}
                {c.last && t`, last ${when(c.last, c.tracker_id)}`})
              </span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Held({ held }: { held: Today["held"] }) {
  if (held.length === 0) return null;
  return (
    <section className="section">
      <h2>
        <Trans>Open conflicts</Trans>
      </h2>
      <ul className="plain">
        {held.map(({ tracker_id, conflict: c }) => (
          <li key={tracker_id + c.sync + c.key}>
            <Link to={`/t/${tracker_id}/lists`}>{c.label || c.key}</Link>{" "}
            <span className="quiet">
              <Trans>
                {c.fields.map((f) => f.column).join(", ")} changed on both sides ({c.sync})
              </Trans>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

// What somebody should know of the service itself, and mend.
function Notices({ notices }: { notices: Today["notices"] }) {
  const when = useWhen();
  if (notices.length === 0) return null;
  return (
    <section className="section" aria-label={t`Needs attention`}>
      <h2>
        <Trans>Needs attention</Trans>
      </h2>
      <ul className="plain">
        {notices.map((n) => (
          <li key={n.about} className="failed">
            {n.says}{" "}
            <span className="quiet">
              <Trans>since {when(n.since)}</Trans>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Failed({ runs }: { runs: Run[] }) {
  const when = useWhen();
  return (
    <section className="section">
      <h2>
        <Trans>Failed</Trans>
      </h2>
      {runs.length === 0 && (
        <p className="quiet">
          <Trans>No failed runs in the last 7 days.</Trans>
        </p>
      )}
      <ul className="plain">
        {runs.map((r) => (
          <li key={r.id} className="failed">
            <Link to={`/t/${encodeURIComponent(r.tracker)}/runs/${r.id}`}>
              {r.kind} {r.name}
            </Link>{" "}
            <span className="quiet">{when(r.at, r.tracker)}</span>
            <div>{r.problem}</div>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Waiting({ mails }: { mails: Today["waiting"] }) {
  const when = useWhen();
  if (mails.length === 0) return null;
  return (
    <section className="section">
      <h2>
        <Trans>Emails not delivered</Trans>
      </h2>
      <ul className="plain">
        {mails.map((m) => (
          <li key={m.id}>
            {m.to} <span className={m.state === "given up" ? "late" : "soon"}>{m.state}</span>
            {m.next_try && (
              <span className="quiet">
                <Trans>, next try {when(m.next_try)}</Trans>
              </span>
            )}
            {m.problem && <div className="quiet">{m.problem}</div>}
          </li>
        ))}
      </ul>
    </section>
  );
}
