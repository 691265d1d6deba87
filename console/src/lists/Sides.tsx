// What a sync does to its two sides.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { ChangeSet, ListWrite, SyncDetail } from "../api/client";
import { Changes } from "../parts/Changes";
import { orBlank } from "../parts/text";

/** Sides shows what the tab and the list take, and what is not synced. */
export function Sides({ set }: { set: ChangeSet }) {
  const writes = set.sync?.writes ?? [];
  return (
    <>
      <div className="sides">
        <section aria-label={t`What the tab takes`}>
          <h3>
            <Trans>Changes to the tab</Trans>
          </h3>
          {set.changes.length === 0 ? (
            <p className="quiet">
              <Trans>Nothing.</Trans>
            </p>
          ) : (
            <Changes changes={set.changes} more={set.more} />
          )}
        </section>
        <section aria-label={t`What the list takes`}>
          <h3>
            <Trans>Changes to the list</Trans>
          </h3>
          <Writes writes={writes} more={set.sync?.more ?? 0} />
        </section>
      </div>
      <Troubles detail={set.sync} />
    </>
  );
}

const verbs = { add: t`new`, change: t`changed`, remove: t`removed` };

export function Writes({ writes, more }: { writes: ListWrite[]; more: number }) {
  if (writes.length === 0)
    return (
      <p className="quiet">
        <Trans>Nothing.</Trans>
      </p>
    );
  return (
    <>
      <ul className="writes">
        {writes.slice(0, 200).map((w) => (
          <li key={w.kind + w.key}>
            <strong>{w.key}</strong> {verbs[w.kind]}
            {w.state && w.state !== "sent" && (
              <span className="late">
                {" "}
                {w.state}: {w.why}
              </span>
            )}
            {w.fields?.map((f) => (
              <div key={f.column}>
                {f.column}: {w.kind === "change" && <span className="quiet">{orBlank(f.before)} → </span>}
                {orBlank(f.after)}
              </div>
            ))}
          </li>
        ))}
      </ul>
      {writes.length + more > 200 && (
        <p className="quiet">
          <Trans>and {plural(writes.length + more - 200, { one: "# more write", other: "# more writes" })}</Trans>
        </p>
      )}
    </>
  );
}

export function Troubles({ detail }: { detail?: SyncDetail }) {
  if (!detail?.troubles?.length) return null;
  return (
    <section aria-label={t`Not synced`}>
      <h3>
        <Trans>Not synced</Trans>
      </h3>
      <ul className="plain">
        {detail.troubles.map((one) => (
          <li key={(one.key ?? "") + one.why}>
            <strong>{one.key || t`(no key)`}</strong> {one.why}
          </li>
        ))}
      </ul>
    </section>
  );
}
