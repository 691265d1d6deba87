// The step that counts rows by group into a tab.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Checkbox, Select } from "antd";
import type { Tracker } from "../api/client";
import { DefinitionText } from "../automation/DefinitionText";
import { FigureField } from "../automation/FigureField";
import { FiguresField } from "../automation/FiguresField";
import { KeyedTabField } from "../automation/KeyedTabField";
import { TabField } from "../automation/TabField";
import { named } from "../automation/condition";
import type { What } from "../tallies/body";
import { fields, text, type Cells, type Step } from "./body";

type Props = {
  tracker: Tracker;
  step: Step;
  of: Cells;
  byRows: boolean;
  put: (more: Cells) => void;
  onChange: (step: Step) => void;
};

const figures: readonly What[] = ["count", "sum", "average", "smallest", "largest", "count distinct"];

export function TallyFields({ tracker, step, of, byRows, put, onChange }: Props) {
  if (of.list !== undefined) {
    return <DefinitionText value={step} onChange={onChange} label={t`The step as text`} />;
  }
  const tab = tracker.tabs.find((one) => one.name === text(of.of));
  const into = tracker.tabs.find((one) => one.name === text(of.into));
  const columns = tab?.columns ?? [];
  const by = text(of.by).replace(/^\[(.*)\]$/, "$1");
  const names = (into?.columns ?? []).filter((c) => !c.clause && c.name !== text(of.key)).map((c) => c.name);
  return (
    <div className="rule-parts">
      <span className="inline-fields">
        <Trans>
          the rows of
          <TabField
            tracker={tracker}
            label={t`Rows of which tab`}
            value={text(of.of)}
            onChange={(name) =>
              put({ of: name, by: named(tracker.tabs.find((one) => one.name === name)?.columns[0]?.name ?? "") })
            }
          />
          by
          <Select
            aria-label={t`Group by`}
            value={columns.some((c) => c.name === by) ? by : text(of.by)}
            options={columns.map((c) => ({ value: c.name, label: c.name }))}
            onChange={(name: string) => put({ by: named(name) })}
            popupMatchSelectWidth={false}
          />
        </Trans>
      </span>
      <KeyedTabField
        tracker={tracker}
        word={t`into`}
        label={t`Into which tab`}
        by={t`the group in`}
        byLabel={t`Column of the group`}
        tab={text(of.into)}
        column={text(of.key)}
        onChange={(into, key) => {
          const to = tracker.tabs.find((one) => one.name === into);
          const free = (to?.columns ?? []).filter((c) => !c.clause && c.name !== key).map((c) => c.name);
          put({ into, key, figures: namedAs(fields(of.figures), free) });
        }}
      />
      {byRows && (
        <Checkbox checked={text(of.rows) === "matched"} onChange={(e) => put({ rows: e.target.checked && "matched" })}>
          <Trans>Only the rows that match</Trans>
        </Checkbox>
      )}
      <FiguresField
        value={Object.entries(fields(of.figures))}
        names={names}
        word={t`is the`}
        fresh="count"
        onChange={(all) => put({ figures: Object.fromEntries(all) })}
      >
        {(written, set, i) => (
          <FigureField nth={i + 1} written={text(written)} columns={columns} among={figures} onChange={set} />
        )}
      </FiguresField>
    </div>
  );
}

// namedAs gives figures that name no column of the tab the names of columns that are free.
function namedAs(figures: Record<string, unknown>, columns: string[]): Record<string, unknown> {
  const free = columns.filter((c) => !(c in figures));
  const names = Object.keys(figures).map((name) => (columns.includes(name) ? name : (free.shift() ?? name)));
  return Object.fromEntries(Object.values(figures).map((written, i) => [names[i] ?? "", written]));
}
