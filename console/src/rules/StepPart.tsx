// What a step does, with what it needs to know.
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
          label="Cells to set"
          columns={columns}
          from={columns}
          people={people}
          value={of}
          onChange={(cells) => onChange({ ...step, set: cells })}
        />
      );
    case "remove":
      return <span className="quiet">Undo brings it back.</span>;
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
  const there = trackers.find((t) => t.name === text(of.tracker)) ?? tracker;
  const columns = columnsOf(tabs);
  const by = columns.filter((c) => c.type === "choice" || c.type === "text");
  const to = there.tabs.find((t) => t.name === text(of.to));
  const arrives = to ? to.columns : there === tracker ? columnsOf(tracker.tabs) : columnsOf(there.tabs);
  return (
    <div className="rule-parts">
      <span className="inline-fields">
        to
        <TypedSelect
          label="To which tab"
          value={text(of.to)}
          placeholder="choose a tab"
          options={[
            ...there.tabs.map((t) => ({ value: t.name, label: t.name })),
            ...by.map((c) => ({ value: `{${named(c.name)}}`, label: `the tab that ${c.name} names` })),
          ]}
          onChange={(name) => put({ to: name })}
        />
        {trackers.length > 1 && (
          <>
            of
            <Select
              aria-label="Of which tracker"
              value={text(of.tracker)}
              options={[
                { value: "", label: "this tracker" },
                ...trackers.filter((t) => t.id !== tracker.id).map((t) => ({ value: t.name, label: t.name })),
              ]}
              onChange={(name: string) => put({ tracker: name, to: "" })}
              popupMatchSelectWidth={false}
            />
          </>
        )}
      </span>
      {kind === "move" && (
        <span className="inline-fields">
          and clear
          <Select
            mode="multiple"
            aria-label="Columns to clear"
            value={texts(of.clear)}
            placeholder="no columns"
            options={arrives.filter((c) => !c.clause).map((c) => ({ value: c.name, label: c.name }))}
            onChange={(names: string[]) => put({ clear: names })}
            style={{ minWidth: 130 }}
            popupMatchSelectWidth={false}
          />
        </span>
      )}
      <CellsField
        label="Cells to set on the way"
        columns={arrives}
        from={columns}
        people={people}
        value={fields(of.set)}
        onChange={(cells) => put({ set: Object.keys(cells).length > 0 ? cells : undefined })}
      />
      {kind === "move" ? (
        <Checkbox checked={yes(of["and back"])} onChange={(e) => put({ "and back": e.target.checked && "yes" })}>
          Move it back when the condition no longer holds
        </Checkbox>
      ) : (
        <Checkbox checked={yes(of.again)} onChange={(e) => put({ again: e.target.checked && "yes" })}>
          Copy again what was copied before
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
        label="Recipients"
        columns={columns}
        people={people}
        value={texts(of.to)}
        onChange={(to) => put({ to })}
      />
      <span className="inline-fields">
        showing
        <ColumnsField
          label="Columns in the email"
          columns={columns.map((c) => c.name)}
          value={texts(of.show)}
          onChange={(names) => put({ show: names })}
        />
      </span>
      <TextField
        word="subject"
        label="Subject"
        placeholder="as usual"
        value={text(of.subject)}
        width={320}
        onChange={(to) => put({ subject: to })}
      />
    </div>
  );
}

function PutFields({ of, put, tracker, tabs, people }: Inner) {
  const to = tracker.tabs.find((t) => t.name === text(of.tab));
  return (
    <div className="rule-parts">
      <KeyedTabField
        tracker={tracker}
        word="in"
        label="In which tab"
        by="matched by"
        byLabel="Matched by"
        tab={text(of.tab)}
        column={text(of.key)}
        onChange={(tab, key) => put(tab === of.tab ? { key } : { tab, key, values: {} })}
      />
      <CellsField
        label="Its values"
        columns={to?.columns ?? []}
        from={columnsOf(tabs)}
        people={people}
        value={fields(of.values)}
        onChange={(values) => put({ values })}
      />
    </div>
  );
}
