// What an import did, or would do: rows by tab, cells that have changed on both sides,
// rows that were not taken, and what was ignored.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { ChangeSet } from "../api/client";
import { Changes } from "../parts/Changes";
import { orBlank } from "../parts/text";

type LeftOut = { sheet?: string; range: string; reason: string };

export type Imported = {
  tables?: {
    sheet?: string;
    tab: string;
    rows: number;
    new_columns?: string[];
    offers?: string[];
    left_out?: LeftOut[];
    taken?: {
      added: number;
      updated: number;
      unchanged: number;
      odd: number;
      kept?: number;
      held?: { label: string; column: string; here: string; file: string }[];
      troubles?: { where: string; why: string }[];
    };
  }[];
  left_out?: LeftOut[];
};

export function Outcome({ set, preview }: { set: ChangeSet; preview: boolean }) {
  const detail = (set.detail as Imported | undefined) ?? {};
  const tables = detail.tables ?? [];
  const ignored = [
    ...(detail.left_out ?? []),
    ...tables.flatMap((one) => (one.left_out ?? []).map((l) => ({ sheet: one.sheet, ...l }))),
  ];
  return (
    <div className="outcome">
      <p>{preview ? t`Preview only. No changes made.` : t`Imported.`}</p>
      <ul>
        {tables.map((one) => (
          <li key={one.tab}>
            <Trans>
              {one.tab}: {plural(one.taken?.added ?? 0, { one: "# row", other: "# rows" })} added,{" "}
              {one.taken?.updated ?? 0} updated, {one.taken?.unchanged ?? 0} unchanged
              {(one.taken?.odd ?? 0) > 0 &&
                `, ${plural(one.taken?.odd ?? 0, { one: "# odd cell", other: "# odd cells" })}`}
              {(one.taken?.kept ?? 0) > 0 &&
                t`, ${plural(one.taken?.kept ?? 0, { one: "# cell", other: "# cells" })} kept as edited here`}
              {(one.new_columns?.length ?? 0) > 0 && t`; new columns: ${one.new_columns?.join(", ") ?? ""}`}
            </Trans>
          </li>
        ))}
      </ul>
      <Lines
        title={t`Changed on both sides, left as they are`}
        lines={tables.flatMap((one) =>
          (one.taken?.held ?? []).map(
            (h) => t`${h.column} of ${h.label} is ${orBlank(h.here)} here and ${orBlank(h.file)} in the file`,
          ),
        )}
      />
      <Lines
        title={t`Not imported`}
        lines={tables.flatMap((one) => (one.taken?.troubles ?? []).map((x) => `${x.where}: ${x.why}`))}
      />
      <Lines title={t`Ignored`} lines={ignored.map((l) => `${l.sheet ? `${l.sheet} ` : ""}${l.range}: ${l.reason}`)} />
      {preview && set.changes.length > 0 && tables.some((one) => one.taken?.updated) && (
        <Changes changes={set.changes} more={set.more} />
      )}
    </div>
  );
}

function Lines({ title, lines }: { title: string; lines: string[] }) {
  if (lines.length === 0) return null;
  return (
    <section aria-label={title}>
      <h3>{title}</h3>
      <ul>
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </section>
  );
}
