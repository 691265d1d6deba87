// The overdue rows, by reminder, each leading to its row.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Link } from "react-router";
import type { Today } from "../api/client";

type Held = Today["overdue"][number];

export function Overdue({ held, nobody, more }: { held: Held[]; nobody: Held[]; more: number }) {
  const all = [...held, ...nobody];
  const reminders = [...new Set(all.map((h) => h.reminder))];
  if (all.length === 0)
    return (
      <section className="section">
        <h2>
          <Trans>Overdue</Trans>
        </h2>
        <p className="quiet">
          <Trans>Nothing is overdue. When a reminder holds a row, it stands here until it is dealt with.</Trans>
        </p>
      </section>
    );
  return (
    <>
      {reminders.map((name) => (
        <Reminder key={name} name={name} rows={all.filter((h) => h.reminder === name)} />
      ))}
      {more > 0 && (
        <p className="quiet">
          <Trans>and {plural(more, { one: "# more row", other: "# more rows" })}</Trans>
        </p>
      )}
    </>
  );
}

function Reminder({ name, rows }: { name: string; rows: Held[] }) {
  const first = rows[0];
  if (!first) return null;
  const heads = first.shown
    .map((x, at) => ({ title: x.title, at }))
    .filter(({ at }) => !rows.every((r) => r.shown[at]?.text === r.label));
  return (
    <section className="section">
      <h2>
        {name} <span className="late">{rows.length}</span>
      </h2>
      <table className="held stacked">
        <thead>
          <tr>
            <th scope="col">
              <Trans>Row</Trans>
            </th>
            {heads.map((h) => (
              <th scope="col" key={h.at}>
                {h.title}
              </th>
            ))}
            <th scope="col">
              <Trans>Assigned to</Trans>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.row}>
              <td>
                <Link to={`/t/${r.tracker_id}/${r.tab_id}?row=${r.row}`}>{r.label}</Link>
              </td>
              {heads.map((h) => (
                <td key={h.at} data-label={h.title} className={classOf(h.title, r.shown[h.at]?.text ?? "")}>
                  {r.shown[h.at]?.text}
                </td>
              ))}
              <td data-label={t`Assigned to`}>
                <div>
                  {r.to.length > 0 ? (
                    r.to.join(", ")
                  ) : (
                    <span className="late">
                      <Trans>unassigned</Trans>
                    </span>
                  )}
                  {(r.untold ?? []).map((why) => (
                    <div key={why} className="quiet">
                      {why}
                    </div>
                  ))}
                </div>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function classOf(title: string, text: string): string | undefined {
  if (/^days /i.test(title)) return "held-late";
  return /^\d{4}-\d\d-\d\d/.test(text) ? "held-date" : undefined;
}
