// When a rule runs, and in which tabs.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Line } from "../automation/Line";
import { Input, Select } from "antd";
import type { Person, Tracker } from "../api/client";
import { ClockField } from "../automation/ClockField";
import { ConditionEditor } from "../automation/ConditionEditor";
import {
  columnsOf,
  tabsOf,
  text,
  texts,
  wakeKinds,
  wakeOf,
  wakes,
  wakeSays,
  withWake,
  withWakes,
  type Body,
} from "./body";
import { TabsField } from "../automation/TabsField";

type Props = { tracker: Tracker; people: Person[]; body: Body; onChange: (body: Body) => void };

export function WakePart({ tracker, people, body, onChange }: Props) {
  const kinds = wakeKinds(body);
  const wake = wakeOf(body);
  const tabs = tabsOf(body, tracker.tabs);
  const columns = columnsOf(tabs);
  return (
    <Line word={t`When`}>
      <div className="rule-parts">
        <Select
          showSearch={{ optionFilterProp: "label" }}
          mode="multiple"
          aria-label={t`What starts it`}
          value={kinds}
          placeholder={t`only when it is run by hand`}
          options={wakes.map((k) => ({ value: k, label: wakeSays[k] }))}
          onChange={(to) => onChange(withWakes(body, to))}
          style={{ minWidth: 230 }}
          popupMatchSelectWidth={false}
        />
        {wake.edit !== undefined && (
          <span className="inline-fields">
            <Trans>
              namely
              <Select
                showSearch={{ optionFilterProp: "label" }}
                mode="multiple"
                aria-label={t`Columns whose edit starts it`}
                value={texts(wake.edit)}
                placeholder={t`choose columns`}
                options={[
                  { value: "any", label: t`any column` },
                  ...columns.filter((c) => !c.clause).map((c) => ({ value: c.name, label: c.name })),
                ]}
                onChange={(names: string[]) => onChange(withWake(body, "edit", names))}
                style={{ minWidth: 140 }}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
        )}
        {wake.clock !== undefined && (
          <ClockField value={text(wake.clock)} onChange={(phrase) => onChange(withWake(body, "clock", phrase))} />
        )}
        {wake.file !== undefined && (
          <span className="inline-fields">
            <Trans>
              whose name is like
              <Input
                aria-label={t`Name of the file`}
                value={text(wake.file)}
                onChange={(e) => onChange(withWake(body, "file", e.target.value))}
                style={{ width: 200 }}
              />
            </Trans>
          </span>
        )}
        {wake["becomes true"] !== undefined && (
          <ConditionEditor
            tracker={tracker.id}
            tabs={tabs.map((one) => one.name)}
            columns={columns}
            people={people}
            label={t`Condition that becomes true`}
            value={text(wake["becomes true"])}
            onChange={(clause) => onChange(withWake(body, "becomes true", clause))}
          />
        )}
        {wake.file === undefined && (
          <span className="inline-fields">
            <Trans>
              in
              <TabsField
                tracker={tracker}
                value={texts(body.in)}
                placeholder={t`every tab that has the columns`}
                onChange={(names) => onChange({ ...body, in: names })}
              />
            </Trans>
          </span>
        )}
      </div>
    </Line>
  );
}
