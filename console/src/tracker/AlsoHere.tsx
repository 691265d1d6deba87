// Who else is in this tracker; a click goes to where they are.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Popover } from "antd";
import { Link } from "react-router";
import type { Tracker } from "../api/client";
import type { Present } from "../api/presence";

export function AlsoHere({ tracker, tab, others }: { tracker: Tracker; tab: string; others: Present[] }) {
  const people = [...new Map(others.map((p) => [p.person, p])).values()]; // each once, however many pages
  if (people.length === 0) return null;
  const named = [...people.filter((p) => p.tab === tab), ...people.filter((p) => p.tab !== tab)];
  const [only, ...more] = named;
  return (
    <span className="also-here quiet" role="status" aria-label={t`Also here`}>
      {only && more.length === 0 ? (
        <>
          <Trans>Also here:</Trans> <To tracker={tracker} at={only} />
        </>
      ) : (
        <Popover
          trigger="click"
          content={
            <ul className="plain">
              {named.map((p) => (
                <li key={p.person}>
                  <To tracker={tracker} at={p} /> <span className="quiet">{placeName(tracker, p)}</span>
                </li>
              ))}
            </ul>
          }
        >
          <Button type="link" size="small">
            {plural(named.length, { one: "# other here", other: "# others here" })}
          </Button>
        </Popover>
      )}
    </span>
  );
}

function To({ tracker, at }: { tracker: Tracker; at: Present }) {
  if (!at.tab) return <span>{at.name}</span>;
  return (
    <Link to={`/t/${tracker.id}/${at.tab}${at.row ? `?row=${at.row}` : ""}`} title={placeName(tracker, at)}>
      {at.name}
    </Link>
  );
}

/** placeName says where somebody is: tab, row and column, as far as they are known. */
export function placeName(tracker: Tracker, at: Present): string {
  const tab = tracker.tabs.find((one) => one.id === at.tab)?.name;
  return [tab, at.label, at.column].filter(Boolean).join(" › ");
}
