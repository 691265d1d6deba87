// A reminder as a sentence: whom it tells, of which rows, and what it shows of them.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
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
  { value: "", label: t`in every email until it is done` },
  { value: "once", label: t`once` },
  { value: "every 2 days", label: t`every 2 days` },
  { value: "every 7 days", label: t`every 7 days` },
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
      <Line word={t`Tell`}>
        <div className="rule-parts">
          <RecipientField
            label={t`Recipients`}
            word=""
            columns={columns}
            people={people}
            value={texts(body.to)}
            onChange={(to) => put({ to })}
          />
          <span className="inline-fields">
            <Trans>
              of rows in
              <TabsField tracker={tracker} value={texts(body.in)} onChange={(all) => setBody({ ...body, in: all })} />
            </Trans>
          </span>
        </div>
      </Line>
      <ConditionLine tracker={tracker} people={people} tabs={tabs} body={body} setBody={setBody} />
      <Line word={t`Show`}>
        <div className="rule-parts">
          <ColumnsField
            label={t`Columns in the email`}
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
            <Trans>
              sorted by
              <Select
                aria-label={t`Sorted by`}
                allowClear
                value={text(body.order) || undefined}
                placeholder={t`their order in the tab`}
                options={names}
                onChange={(order?: string) => put({ order })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              due on
              <Select
                aria-label={t`Due on`}
                allowClear
                value={text(body.due) || undefined}
                placeholder={t`no date`}
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
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              told of
              <Select
                aria-label={t`How often`}
                value={text(body.repeat)}
                options={
                  repeats.some((r) => r.value === text(body.repeat))
                    ? repeats
                    : [...repeats, { value: text(body.repeat), label: text(body.repeat) }]
                }
                onChange={(repeat: string) => put({ repeat })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
        </div>
      </Line>
      <Line word={t`Also`}>
        <div className="rule-parts">
          <RecipientField
            label={t`Copies`}
            word={t`copies to`}
            columns={columns}
            people={people}
            value={texts(body.copy)}
            onChange={(copy) => put({ copy })}
          />
          <RecipientField
            label={t`When nobody is assigned`}
            word={t`when nobody is assigned, to`}
            columns={[]}
            people={people}
            value={texts(body.otherwise)}
            onChange={(otherwise) => put({ otherwise })}
          />
          <span className="inline-fields">
            <Trans>
              escalate after
              <Input
                aria-label={t`Escalate after`}
                value={text(raise.after)}
                placeholder={t`20 workdays`}
                onChange={(e) => {
                  const next = without({ ...raise, after: e.target.value });
                  put({ raise: Object.keys(next).length > 0 ? next : undefined });
                }}
                style={{ width: 120 }}
              />
            </Trans>
          </span>
          {text(raise.after) !== "" && (
            <RecipientField
              label={t`Escalate to`}
              columns={[]}
              people={people}
              value={texts(raise.to)}
              onChange={(to) => put({ raise: without({ ...raise, to }) })}
            />
          )}
        </div>
      </Line>
      <Line word={t`Done`}>
        <div className="rule-parts">
          <span className="quiet">
            <Trans>Who presses “Mark done” in the email sets:</Trans>
          </span>
          <CellsField
            label={t`What Done sets`}
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
