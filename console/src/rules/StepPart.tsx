// What a step does, with what it needs to know.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Checkbox, Select } from "antd";
import type { Definition, Person, Tab, Tracker } from "../api/client";
import { ColumnsField } from "../automation/ColumnsField";
import { CellsField } from "../automation/CellsField";
import { named } from "../automation/condition";
import { KeyedTabField } from "../automation/KeyedTabField";
import { RecipientField } from "../automation/RecipientField";
import { TypedSelect } from "../automation/TypedSelect";
import { TextField } from "../automation/TextField";
import { TakeFields, WriteFields } from "./FileSteps";
import { TallyFields } from "./TallyFields";
import { columnsOf, fields, kindOf, text, texts, without, yes, type Cells, type Step } from "./body";

type Props = {
  tracker: Tracker;
  trackers: Tracker[];
  people: Person[];
  tabs: Tab[]; // whose rows it works on
  byRows: boolean; // it works on rows that the rule matches
  reminders: Definition[];
  step: Step;
  onChange: (step: Step) => void;
};

export function StepPart(props: Props) {
  const { step, onChange, tabs, people } = props;
  const kind = kindOf(step);
  const of = fields(step[kind]);
  const put = (more: Cells) => onChange({ ...step, [kind]: without({ ...of, ...more }) });
  const columns = columnsOf(tabs);
  switch (kind) {
    case "move":
    case "copy":
      return <PlaceFields {...props} kind={kind} of={of} put={put} />;
    case "set":
      return (
        <CellsField
          label={t`Cells to set`}
          columns={columns}
          from={columns}
          people={people}
          value={of}
          onChange={(cells) => onChange({ ...step, set: cells })}
        />
      );
    case "remove":
      return (
        <span className="quiet">
          <Trans>Undo brings it back.</Trans>
        </span>
      );
    case "mail":
      return <MailFields {...props} of={of} put={put} />;
    case "put":
      return <PutFields {...props} of={of} put={put} />;
    case "take":
      return <TakeFields tracker={props.tracker} of={of} put={put} />;
    case "write":
      return (
        <WriteFields tracker={props.tracker} of={of} put={put} byRows={props.byRows} reminders={props.reminders} />
      );
    case "tally":
      return (
        <TallyFields tracker={props.tracker} step={step} of={of} put={put} byRows={props.byRows} onChange={onChange} />
      );
  }
}

type Inner = Props & { of: Cells; put: (more: Cells) => void };

function PlaceFields({ kind, of, put, tracker, trackers, tabs, people }: Inner & { kind: "move" | "copy" }) {
  const there = trackers.find((one) => one.name === text(of.tracker)) ?? tracker;
  const columns = columnsOf(tabs);
  const by = columns.filter((c) => c.type === "choice" || c.type === "text");
  const to = there.tabs.find((one) => one.name === text(of.to));
  const arrives = to ? to.columns : there === tracker ? columnsOf(tracker.tabs) : columnsOf(there.tabs);
  return (
    <div className="rule-parts">
      <span className="inline-fields">
        <Trans>
          to
          <TypedSelect
            label={t`To which tab`}
            value={text(of.to)}
            placeholder={t`choose a tab`}
            options={[
              ...there.tabs.map((one) => ({ value: one.name, label: one.name })),
              ...by.map((c) => ({ value: `{${named(c.name)}}`, label: t`the tab that ${c.name} names` })),
            ]}
            onChange={(name) => put({ to: name })}
          />
        </Trans>
        {trackers.length > 1 && (
          <>
            <Trans>
              of
              <Select
                aria-label={t`Of which tracker`}
                value={text(of.tracker)}
                options={[
                  { value: "", label: t`this tracker` },
                  ...trackers
                    .filter((one) => one.id !== tracker.id)
                    .map((one) => ({ value: one.name, label: one.name })),
                ]}
                onChange={(name: string) => put({ tracker: name, to: "" })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </>
        )}
      </span>
      {kind === "move" && (
        <span className="inline-fields">
          <Trans>
            and clear
            <Select
              showSearch={{ optionFilterProp: "label" }}
              mode="multiple"
              aria-label={t`Columns to clear`}
              value={texts(of.clear)}
              placeholder={t`no columns`}
              options={arrives.filter((c) => !c.clause).map((c) => ({ value: c.name, label: c.name }))}
              onChange={(names: string[]) => put({ clear: names })}
              style={{ minWidth: 130 }}
              popupMatchSelectWidth={false}
            />
          </Trans>
        </span>
      )}
      <CellsField
        label={t`Cells to set on the way`}
        columns={arrives}
        from={columns}
        people={people}
        value={fields(of.set)}
        onChange={(cells) => put({ set: Object.keys(cells).length > 0 ? cells : undefined })}
      />
      {kind === "move" ? (
        <Checkbox checked={yes(of["and back"])} onChange={(e) => put({ "and back": e.target.checked && "yes" })}>
          <Trans>Move it back when the condition no longer holds</Trans>
        </Checkbox>
      ) : (
        <Checkbox checked={yes(of.again)} onChange={(e) => put({ again: e.target.checked && "yes" })}>
          <Trans>Copy again what was copied before</Trans>
        </Checkbox>
      )}
    </div>
  );
}

function MailFields({ of, put, tabs, people }: Inner) {
  const columns = columnsOf(tabs);
  return (
    <div className="rule-parts">
      <RecipientField
        label={t`Recipients`}
        columns={columns}
        people={people}
        value={texts(of.to)}
        onChange={(to) => put({ to })}
      />
      <span className="inline-fields">
        <Trans>
          showing
          <ColumnsField
            label={t`Columns in the email`}
            columns={columns.map((c) => c.name)}
            value={texts(of.show)}
            onChange={(names) => put({ show: names })}
          />
        </Trans>
      </span>
      <TextField
        word={t`subject`}
        label={t`Subject`}
        placeholder={t`as usual`}
        value={text(of.subject)}
        width={320}
        onChange={(to) => put({ subject: to })}
      />
    </div>
  );
}

function PutFields({ of, put, tracker, tabs, people }: Inner) {
  const to = tracker.tabs.find((one) => one.name === text(of.tab));
  return (
    <div className="rule-parts">
      <KeyedTabField
        tracker={tracker}
        word={t`in`}
        label={t`In which tab`}
        by="matched by"
        byLabel={t`Matched by`}
        tab={text(of.tab)}
        column={text(of.key)}
        onChange={(tab, key) => put(tab === of.tab ? { key } : { tab, key, values: {} })}
      />
      <CellsField
        label={t`Its values`}
        columns={to?.columns ?? []}
        from={columnsOf(tabs)}
        people={people}
        value={fields(of.values)}
        onChange={(values) => put({ values })}
      />
    </div>
  );
}
