// A reminder as a sentence: whom it tells, of which rows, and what it shows of them.
import { Line } from "../automation/Line";
import { Input, Select } from "antd";
import type { Person, Tracker } from "../api/client";
import { CellsField } from "../automation/CellsField";
import { ColumnsField } from "../automation/ColumnsField";
import { NameLine } from "../automation/NameLine";
import type { Parts } from "../automation/DefinitionEditor";
import { RecipientField } from "../automation/RecipientField";
import { columnsOf, fields, tabsOf, text, texts, without } from "../rules/body";
import { ConditionLine } from "../automation/ConditionLine";
import { TabsField } from "../automation/TabsField";

type Props = Parts & { tracker: Tracker; people: Person[] };

const repeats = [
  { value: "", label: "in every email until it is done" },
  { value: "once", label: "once" },
  { value: "every 2 days", label: "every 2 days" },
  { value: "every 7 days", label: "every 7 days" },
];

export function ReminderSentence({ tracker, people, body, setBody }: Props) {
  const tabs = tabsOf(body, tracker.tabs);
  const columns = columnsOf(tabs);
  const put = (more: Record<string, unknown>) => setBody(without({ ...body, ...more }));
  const names = columns.map((c) => ({ value: c.name, label: c.name }));
  const act = fields(body.act);
  const raise = fields(body.raise);
  const shown = Array.isArray(body.show) ? body.show : [];
  // some may be worked out by clauses: those are kept as they are, under their titles
  const titled = shown.map((s, i) => (typeof s === "string" ? s : `clause ${i}`));
  const titles = Object.fromEntries(
    shown.flatMap((s, i) => (typeof s === "string" ? [] : [[`clause ${i}`, Object.keys(fields(s)).join(", ")]])),
  ) as Record<string, string>;
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word="Tell">
        <div className="rule-parts">
          <RecipientField
            label="Recipients"
            word=""
            columns={columns}
            people={people}
            value={texts(body.to)}
            onChange={(to) => put({ to })}
          />
          <span className="inline-fields">
            of rows in
            <TabsField tracker={tracker} value={texts(body.in)} onChange={(all) => setBody({ ...body, in: all })} />
          </span>
        </div>
      </Line>
      <ConditionLine tracker={tracker} people={people} tabs={tabs} body={body} setBody={setBody} />
      <Line word="Show">
        <div className="rule-parts">
          <ColumnsField
            label="Columns in the email"
            columns={columns.map((c) => c.name)}
            value={titled}
            titles={titles}
            onChange={(all) =>
              setBody({
                ...body,
                show: all.map((name) => (name in titles ? shown[titled.indexOf(name)] : name)) as unknown[],
              })
            }
          />
          <span className="inline-fields">
            sorted by
            <Select
              aria-label="Sorted by"
              allowClear
              value={text(body.order) || undefined}
              placeholder="their order in the tab"
              options={names}
              onChange={(order?: string) => put({ order })}
              popupMatchSelectWidth={false}
            />
          </span>
          <span className="inline-fields">
            due on
            <Select
              aria-label="Due on"
              allowClear
              value={text(body.due) || undefined}
              placeholder="no date"
              options={columns
                .filter((c) => c.type === "date" || c.type === "date-time")
                .map((c) => ({ value: c.name, label: c.name }))
                .concat(
                  text(body.due) && !columns.some((c) => c.name === body.due)
                    ? [{ value: text(body.due), label: text(body.due) }]
                    : [],
                )}
              onChange={(due?: string) => put({ due })}
              popupMatchSelectWidth={false}
            />
          </span>
          <span className="inline-fields">
            told of
            <Select
              aria-label="How often"
              value={text(body.repeat)}
              options={
                repeats.some((r) => r.value === text(body.repeat))
                  ? repeats
                  : [...repeats, { value: text(body.repeat), label: text(body.repeat) }]
              }
              onChange={(repeat: string) => put({ repeat })}
              popupMatchSelectWidth={false}
            />
          </span>
        </div>
      </Line>
      <Line word="Also">
        <div className="rule-parts">
          <RecipientField
            label="Copies"
            word="copies to"
            columns={columns}
            people={people}
            value={texts(body.copy)}
            onChange={(copy) => put({ copy })}
          />
          <RecipientField
            label="When nobody is assigned"
            word="when nobody is assigned, to"
            columns={[]}
            people={people}
            value={texts(body.otherwise)}
            onChange={(otherwise) => put({ otherwise })}
          />
          <span className="inline-fields">
            escalate after
            <Input
              aria-label="Escalate after"
              value={text(raise.after)}
              placeholder="20 workdays"
              onChange={(e) => {
                const next = without({ ...raise, after: e.target.value });
                put({ raise: Object.keys(next).length > 0 ? next : undefined });
              }}
              style={{ width: 120 }}
            />
          </span>
          {text(raise.after) !== "" && (
            <RecipientField
              label="Escalate to"
              columns={[]}
              people={people}
              value={texts(raise.to)}
              onChange={(to) => put({ raise: without({ ...raise, to }) })}
            />
          )}
        </div>
      </Line>
      <Line word="Done">
        <div className="rule-parts">
          <span className="quiet">Who presses “Mark done” in the email sets:</span>
          <CellsField
            label="What Done sets"
            columns={columns}
            from={columns}
            people={people}
            value={fields(act.done)}
            onChange={(done) => {
              const next = without({ ...act, done: Object.keys(done).length > 0 ? done : undefined });
              put({ act: Object.keys(next).length > 0 ? next : undefined });
            }}
          />
        </div>
      </Line>
    </>
  );
}
