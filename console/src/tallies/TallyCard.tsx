// A tally: its picture, or its number with the trend, beside its table.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Dropdown, Table } from "antd";
import { Link } from "react-router";
import type { Tally } from "../api/client";
import { useTracker } from "../parts/queries";
import { todayIn } from "../parts/time";
import { useDark } from "../parts/useMedia";
import type { Forms } from "../parts/writing";
import { Sentence } from "../parts/Sentence";
import { shown } from "../tracker/format";
import "./tallies.css";

type Figure = Tally["figures"][number];
type Group = Tally["groups"][number];

const names = new Map<string, string>();

// said gives a figure as people read it.
export function said(f: Figure, values: Record<string, unknown> | undefined, forms: Forms = {}): string {
  const v = values?.[f.name];
  if (v === null || v === undefined) return "–";
  return shown(v, { id: f.name, name: f.name, type: f.type, format: f.format, bad_input: "mark" }, names, forms);
}

// change says how a number has moved since an earlier day.
export function change(now: unknown, before: unknown, forms: Forms = {}): string {
  const by = Number(now) - Number(before);
  if (now === null || before === null || before === undefined || Number.isNaN(by)) return "";
  const size = Math.round(Math.abs(by) * 10_000) / 10_000;
  return by === 0
    ? t`unchanged`
    : `${by > 0 ? "▲" : "▼"} ${shown(size, { id: "", name: "", type: "number", bad_input: "mark" }, names, forms)}`;
}

// dayOf gives the day of a time as a tracker's people write it.
function dayOf(time: string, forms: Forms): string {
  const day = todayIn(forms.zone, new Date(time));
  return shown(day, { id: "", name: "", type: "date", bad_input: "mark" }, names, forms);
}

const plain: Forms = {};

type Props = { tracker: string; tally: Tally; drawnAt: number; edit?: boolean };

export function TallyCard({ tracker, tally, drawnAt, edit }: Props) {
  const theme = useDark() ? "dark" : "light";
  const at = `/api/v1/trackers/${encodeURIComponent(tracker)}/tallies/${tally.id}`;
  const forms: Forms = useTracker(tracker) ?? plain;
  const since = tally.compared_with && dayOf(tally.compared_with, forms);
  return (
    <section className="section tally" aria-label={tally.name}>
      <header>
        <h2>
          {tally.name}{" "}
          {edit && (
            <Link className="edit-link" to={`/t/${tracker}/tallies/${tally.id}`}>
              <Trans>Edit</Trans>
            </Link>
          )}
        </h2>
        <Dropdown
          menu={{
            items: [
              {
                key: "xlsx",
                label: (
                  <a href={`${at}/table?format=xlsx`}>
                    <Trans>Workbook with its chart</Trans>
                  </a>
                ),
              },
              {
                key: "csv",
                label: (
                  <a href={`${at}/table?format=csv`}>
                    <Trans>CSV</Trans>
                  </a>
                ),
              },
              ...(tally.drawn
                ? [
                    {
                      key: "png",
                      label: (
                        <a href={`${at}/picture?format=png`} download={`${tally.name}.png`}>
                          <Trans>Picture (PNG)</Trans>
                        </a>
                      ),
                    },
                  ]
                : []),
            ],
          }}
        >
          <Button size="small">{t`Export`}</Button>
        </Dropdown>
      </header>
      <p className="quiet">
        <Sentence text={tally.says} />
      </p>
      <div className="tally-parts">
        {tally.draw === "number" ? (
          <Numbers tally={tally} since={since} forms={forms} />
        ) : (
          tally.drawn && (
            <picture>
              <source media="(max-width: 700px)" srcSet={`${at}/picture?theme=${theme}&drawn=${drawnAt}&width=360`} />
              <img
                className="tally-picture"
                src={`${at}/picture?theme=${theme}&drawn=${drawnAt}`}
                alt={t`${tally.show} by ${tally.by.join(t` and `) || t`all rows`}, as in the table`}
              />
            </picture>
          )
        )}
        {(tally.draw !== "number" || tally.by.length > 0) && <Groups tally={tally} since={since} forms={forms} />}
      </div>
      {tally.groups.length === 0 && (
        <p className="quiet">
          <Trans>No rows are counted.</Trans>
        </p>
      )}
      {tally.not_compared && (
        <p className="quiet">
          <Trans>Not compared: {tally.not_compared}.</Trans>
        </p>
      )}
      {(tally.skipped ?? 0) > 0 && (
        <p className="quiet">
          <Trans>
            {plural(tally.skipped ?? 0, { one: "# row", other: "# rows" })} skipped:{" "}
            {(tally.passed_over ?? [])
              .slice(0, 3)
              .map((p) => t`${p.label} in ${p.tab} (${p.why})`)
              .join("; ")}
            {(tally.skipped ?? 0) > 3 && " …"}
          </Trans>
        </p>
      )}
    </section>
  );
}

function Numbers({ tally, since, forms }: { tally: Tally; since?: string; forms: Forms }) {
  const all = tally.groups.length === 1 ? tally.groups[0] : tally.total;
  return (
    <dl className="tally-numbers">
      {tally.figures.map((f) => (
        <div key={f.name}>
          <dt>{f.name}</dt>
          <dd>
            {said(f, all?.values, forms)}
            {since && all?.before && (
              <span className="tally-trend">
                <Trans>
                  {change(all.values[f.name], all.before[f.name], forms)} since {since}
                </Trans>
              </span>
            )}
          </dd>
        </div>
      ))}
    </dl>
  );
}

function Groups({ tally, since, forms }: { tally: Tally; since?: string; forms: Forms }) {
  const rows: (Group & { key: number; strong?: boolean })[] = tally.groups.map((g, key) => ({ ...g, key }));
  if (tally.others) rows.push({ ...tally.others, key: -1 });
  if (rows.length > 1) rows.push({ ...tally.total, group: [t`Total`], key: -2, strong: true });
  if (rows.length === 0) return null;
  return (
    <Table
      className="tally-table"
      size="small"
      rowKey="key"
      pagination={rows.length > 15 ? { pageSize: 15, showSizeChanger: false } : false}
      scroll={{ x: true }}
      dataSource={rows}
      rowClassName={(r) => (r.strong ? "tally-total" : "")}
      columns={[
        ...tally.by.map((name, i) => ({ title: name, render: (_: unknown, r: Group) => r.group[i] ?? "" })),
        ...tally.figures.map((f) => ({
          title: f.name,
          align: "right" as const,
          render: (_: unknown, r: Group) =>
            r.odd?.[f.name] ? (
              <span className="quiet">{r.odd[f.name]}</span>
            ) : (
              <>
                {said(f, r.values, forms)}
                {since && r.before && (
                  <span className="tally-was" title={t`on ${since}: ${said(f, r.before, forms)}`}>
                    {change(r.values[f.name], r.before[f.name], forms)}
                  </span>
                )}
              </>
            ),
        })),
      ]}
    />
  );
}
