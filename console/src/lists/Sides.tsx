// What a sync does to its two sides.
import type { ChangeSet, ListWrite, SyncDetail } from "../api/client";
import { Changes } from "../parts/Changes";
import { orBlank, plural } from "../parts/text";

/** Sides shows what the tab and the list take, and what is not synced. */
export function Sides({ set }: { set: ChangeSet }) {
  const writes = set.sync?.writes ?? [];
  return (
    <>
      <div className="sides">
        <section aria-label="What the tab takes">
          <h3>Changes to the tab</h3>
          {set.changes.length === 0 ? (
            <p className="quiet">Nothing.</p>
          ) : (
            <Changes changes={set.changes} more={set.more} />
          )}
        </section>
        <section aria-label="What the list takes">
          <h3>Changes to the list</h3>
          <Writes writes={writes} more={set.sync?.more ?? 0} />
        </section>
      </div>
      <Troubles detail={set.sync} />
    </>
  );
}

const verbs = { add: "new", change: "changed", remove: "removed" };

export function Writes({ writes, more }: { writes: ListWrite[]; more: number }) {
  if (writes.length === 0) return <p className="quiet">Nothing.</p>;
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
      {writes.length + more > 200 && <p className="quiet">and {plural(writes.length + more - 200, "more write")}</p>}
    </>
  );
}

export function Troubles({ detail }: { detail?: SyncDetail }) {
  if (!detail?.troubles?.length) return null;
  return (
    <section aria-label="Not synced">
      <h3>Not synced</h3>
      <ul className="plain">
        {detail.troubles.map((t) => (
          <li key={(t.key ?? "") + t.why}>
            <strong>{t.key || "(no key)"}</strong> {t.why}
          </li>
        ))}
      </ul>
    </section>
  );
}
