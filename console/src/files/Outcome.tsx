// What an import did, or would do: rows by tab, cells that have changed on both sides,
// rows that were not taken, and what was ignored.
import type { ChangeSet } from "../api/client";
import { Changes } from "../parts/Changes";
import { orBlank, plural } from "../parts/text";

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
    ...tables.flatMap((t) => (t.left_out ?? []).map((l) => ({ sheet: t.sheet, ...l }))),
  ];
  return (
    <div className="outcome">
      <p>{preview ? "Preview only. No changes made." : "Imported."}</p>
      <ul>
        {tables.map((t) => (
          <li key={t.tab}>
            {t.tab}: {plural(t.taken?.added ?? 0, "row")} added, {t.taken?.updated ?? 0} updated,{" "}
            {t.taken?.unchanged ?? 0} unchanged
            {(t.taken?.odd ?? 0) > 0 && `, ${plural(t.taken?.odd ?? 0, "odd cell")}`}
            {(t.taken?.kept ?? 0) > 0 && `, ${plural(t.taken?.kept ?? 0, "cell")} kept as edited here`}
            {(t.new_columns?.length ?? 0) > 0 && `; new columns: ${t.new_columns?.join(", ")}`}
          </li>
        ))}
      </ul>
      <Lines
        title="Changed on both sides, left as they are"
        lines={tables.flatMap((t) =>
          (t.taken?.held ?? []).map(
            (h) => `${h.column} of ${h.label} is ${orBlank(h.here)} here and ${orBlank(h.file)} in the file`,
          ),
        )}
      />
      <Lines
        title="Not imported"
        lines={tables.flatMap((t) => (t.taken?.troubles ?? []).map((x) => `${x.where}: ${x.why}`))}
      />
      <Lines title="Ignored" lines={ignored.map((l) => `${l.sheet ? `${l.sheet} ` : ""}${l.range}: ${l.reason}`)} />
      {preview && set.changes.length > 0 && tables.some((t) => t.taken?.updated) && (
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
