// One kind of page, edited: which rows have one, and what stands on it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Line } from "../automation/Line";
import { Checkbox, Input, Select } from "antd";
import { useParams } from "react-router";
import type { Parts } from "../automation/DefinitionEditor";
import { begun } from "../automation/Beginnings";
import { EditPage, type Context } from "../automation/EditPage";
import { kinds } from "../automation/kinds";
import { NameLine } from "../automation/NameLine";
import { columnsOf, fields, text, texts, without, type Cells } from "../rules/body";
import { pageBeginnings } from "./beginnings";
import { patternLacks, readFacts, writeFacts } from "./pattern";
import { TablesField } from "./TablesField";
import { TypedFields } from "./TypedFields";
import { ColumnsField } from "../automation/ColumnsField";
import { ConditionLine } from "../automation/ConditionLine";
import { FiguresField } from "../automation/FiguresField";
import { TabsField } from "../automation/TabsField";

export default function PatternPage() {
  const { pattern = "new" } = useParams();
  return (
    <EditPage
      kind={kinds.dossier}
      definition={pattern}
      begin={(tracker, from) => begun(pageBeginnings(tracker), from)}
      missing={patternLacks}
    >
      {(parts) => <PatternSentence {...parts} />}
    </EditPage>
  );
}

function PatternSentence({ tracker, people, body, setBody }: Parts & Context) {
  const tabs = tracker.tabs.filter((one) => texts(body.for).includes(one.name));
  const columns = columnsOf(tabs);
  const put = (more: Cells) => setBody(without({ ...body, ...more }));
  const facts = readFacts(body.facts);
  const log = fields(body.log);
  const figures = Object.entries(fields(body.figures));
  const setFigures = (all: [string, unknown][]) =>
    put({ figures: all.length > 0 ? Object.fromEntries(all) : undefined });
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word={t`For`}>
        <div className="rule-parts">
          <span className="inline-fields">
            <Trans>
              rows of
              <TabsField tracker={tracker} value={texts(body.for)} onChange={(all) => setBody({ ...body, for: all })} />
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              opened
              <Select
                aria-label={t`Opened`}
                value={text(body.open) || "by hand"}
                options={[
                  { value: "by hand", label: t`by hand` },
                  { value: "by itself", label: t`by itself` },
                ]}
                onChange={(open: string) => put({ open: open === "by itself" ? open : undefined })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              titled
              <Input
                aria-label={t`Title`}
                value={text(body.title)}
                placeholder="{Name}"
                onChange={(e) => setBody({ ...body, title: e.target.value })}
                style={{ width: 220 }}
              />
            </Trans>
          </span>
        </div>
      </Line>
      <ConditionLine tracker={tracker} people={people} tabs={tabs} body={body} setBody={setBody} />
      <Line word={t`Facts`}>
        <div className="cells-field" role="group" aria-label={t`Facts`}>
          <ColumnsField
            label={t`Columns of the row`}
            columns={columns.map((c) => c.name)}
            value={facts.map((f) => f.column)}
            onChange={(names) =>
              setBody({
                ...body,
                facts: writeFacts(names.map((n) => facts.find((f) => f.column === n) ?? { column: n, once: false })),
              })
            }
          />
          {facts.map((f, i) => (
            <Checkbox
              key={f.column}
              checked={f.once}
              onChange={(e) =>
                setBody({
                  ...body,
                  facts: writeFacts(facts.map((x, k) => (k === i ? { ...x, once: e.target.checked } : x))),
                })
              }
            >
              <Trans>Keep {f.column} as it was when the page was opened</Trans>
            </Checkbox>
          ))}
        </div>
      </Line>
      <Line word={t`Own`}>
        <TypedFields
          label={t`Fields of the page's own`}
          add={t`Add field`}
          value={fields(body.own)}
          onChange={(own) => put({ own: Object.keys(own).length > 0 ? own : undefined })}
        />
      </Line>
      <Line word={t`Figures`}>
        <FiguresField value={figures} word={t`is`} fresh="" onChange={setFigures}>
          {(clause, set, i) => (
            <Input
              className="clause"
              aria-label={t`Clause of figure ${i + 1}`}
              value={text(clause)}
              onChange={(e) => set(e.target.value)}
              style={{ width: 380 }}
            />
          )}
        </FiguresField>
      </Line>
      <Line word={t`Tables`}>
        <TablesField
          tracker={tracker}
          own={columns}
          value={fields(body.tables)}
          onChange={(to) => put({ tables: Object.keys(to).length > 0 ? to : undefined })}
        />
      </Line>
      <Line word={t`Log`}>
        <TypedFields
          label={t`Columns of the log`}
          add={t`Add column to the log`}
          value={fields(log.columns)}
          onChange={(all) => put({ log: Object.keys(all).length > 0 ? { ...log, columns: all } : undefined })}
        />
      </Line>
    </>
  );
}
