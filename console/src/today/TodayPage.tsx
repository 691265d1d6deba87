// The first page: what is overdue and whose, what runs next, what failed, and
// what the next round will send to whom.
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask, type Run, type Today } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { useTrackers, useWhen } from "../parts/queries";
import { TodayTallies } from "../tallies/TalliesPage";
import { plural } from "../parts/text";
import { Overdue } from "./Overdue";
import { NextRounds } from "./NextRounds";
import { Greeting } from "../start/Greeting";
import { useMay } from "../parts/may";
import "./today.css";

export default function TodayPage() {
  const today = useQuery({ queryKey: ["today"], queryFn: () => ask(api.GET("/api/v1/today")) });
  const trackers = useTrackers();
  const may = useMay();
  if (today.isPending) return <div className="page quiet">Loading…</div>;
  if (today.isError)
    return (
      <div className="page">
        <ProblemNote error={today.error} />
      </div>
    );
  if (trackers.data?.length === 0) {
    return (
      <div className="page">
        <h1>Welcome to Kavlo</h1>
        <Greeting keep={may.keep} />
      </div>
    );
  }
  const t = today.data;
  const day = new Intl.DateTimeFormat(undefined, { weekday: "long", day: "numeric", month: "long" }).format(
    new Date(t.day),
  );
  return (
    <div className="page">
      <header>
        <h1>Today</h1>
        <span className="quiet">{day}</span>
      </header>
      <p className="today-sum">{summary(t)}</p>
      <div className="today">
        <div>
          <Notices notices={t.notices} />
          <Overdue held={t.overdue} nobody={t.nobody} more={t.more.overdue + t.more.nobody} />
          <Failed runs={t.failed} />
        </div>
        <div>
          <Whose people={t.people} />
          <Held held={t.held} />
          <NextRounds rounds={t.rounds} />
          <Clock next={t.next} />
          <Waiting mails={t.waiting} />
        </div>
      </div>
      {trackers.data?.map((x) => (
        <TodayTallies key={x.id} tracker={x.id} />
      ))}
    </div>
  );
}

function summary(t: Today): string {
  const rows = new Set([...t.overdue, ...t.nobody].map((h) => h.row)).size + t.more.overdue + t.more.nobody;
  const parts = [
    rows === 0
      ? "Nothing is overdue"
      : `${plural(rows, "row")} overdue, ${plural(t.people.length, "person", "people")}`,
  ];
  parts.push(t.failed.length === 0 ? "nothing failed this week" : `${plural(t.failed.length, "run")} failed this week`);
  if (t.notices.length > 0) parts.push(`${plural(t.notices.length, "thing")} about the service to look at`);
  if (t.held.length > 0) parts.push(`${plural(t.held.length, "conflict")} open`);
  if (t.waiting.length > 0) parts.push(`${plural(t.waiting.length, "email")} not delivered`);
  return parts.join("; ") + ".";
}

function Whose({ people }: { people: Today["people"] }) {
  const most = Math.max(1, ...people.map((p) => p.rows));
  return (
    <section className="section">
      <h2>By person</h2>
      {people.length === 0 && <p className="quiet">Nothing is overdue.</p>}
      <ul className="plain">
        {people.map((p) => (
          <li key={p.address} className="load">
            <span>{p.name}</span>
            <span className="load-bar" aria-hidden="true">
              <span style={{ width: `${(100 * p.rows) / most}%` }} />
            </span>
            <span className="load-count">{plural(p.rows, "row")}</span>
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
      <h2>Scheduled</h2>
      {next.length === 0 && <p className="quiet">Nothing is scheduled.</p>}
      <ul className="plain">
        {next.map((c) => (
          <li key={c.tracker_id + c.kind + c.name} className="clocked">
            <span className="clocked-at">{when(c.next, c.tracker_id)}</span>
            <span>
              {c.name}{" "}
              <span className="quiet">
                ({c.kind}
                {c.last && `, last ${when(c.last, c.tracker_id)}`})
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
      <h2>Open conflicts</h2>
      <ul className="plain">
        {held.map(({ tracker_id, conflict: c }) => (
          <li key={tracker_id + c.sync + c.key}>
            <Link to={`/t/${tracker_id}/lists`}>{c.label || c.key}</Link>{" "}
            <span className="quiet">
              {c.fields.map((f) => f.column).join(", ")} changed on both sides ({c.sync})
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
    <section className="section" aria-label="Needs attention">
      <h2>Needs attention</h2>
      <ul className="plain">
        {notices.map((n) => (
          <li key={n.about} className="failed">
            {n.says} <span className="quiet">since {when(n.since)}</span>
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
      <h2>Failed</h2>
      {runs.length === 0 && <p className="quiet">No failed runs in the last 7 days.</p>}
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
      <h2>Emails not delivered</h2>
      <ul className="plain">
        {mails.map((m) => (
          <li key={m.id}>
            {m.to} <span className={m.state === "given up" ? "late" : "soon"}>{m.state}</span>
            {m.next_try && <span className="quiet">, next try {when(m.next_try)}</span>}
            {m.problem && <div className="quiet">{m.problem}</div>}
          </li>
        ))}
      </ul>
    </section>
  );
}
