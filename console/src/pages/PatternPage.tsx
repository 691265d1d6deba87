// One kind of page, edited: which rows have one, and what stands on it.
import { Line } from "../automation/Line";
import { Checkbox, Input, Select } from "antd";
import { useParams } from "react-router";
import type { Parts } from "../automation/DefinitionEditor";
import { EditPage, type Context } from "../automation/EditPage";
import { kinds } from "../automation/kinds";
import { NameLine } from "../automation/NameLine";
import { columnsOf, fields, text, texts, without, type Cells } from "../rules/body";
import { newPattern, patternLacks, readFacts, writeFacts } from "./pattern";
import { TablesField } from "./TablesField";
import { TypedFields } from "./TypedFields";
import { ColumnsField } from "../automation/ColumnsField";
import { ConditionLine } from "../automation/ConditionLine";
import { FiguresField } from "../automation/FiguresField";
import { TabsField } from "../automation/TabsField";

export default function PatternPage() {
  const { pattern = "new" } = useParams();
  return (
    <EditPage kind={kinds.dossier} definition={pattern} begin={newPattern} missing={patternLacks}>
      {(parts) => <PatternSentence {...parts} />}
    </EditPage>
  );
}

function PatternSentence({ tracker, people, body, setBody }: Parts & Context) {
  const tabs = tracker.tabs.filter((t) => texts(body.for).includes(t.name));
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
      <Line word="For">
        <div className="rule-parts">
          <span className="inline-fields">
            rows of
            <TabsField tracker={tracker} value={texts(body.for)} onChange={(all) => setBody({ ...body, for: all })} />
          </span>
          <span className="inline-fields">
            opened
            <Select
              aria-label="Opened"
              value={text(body.open) || "by hand"}
              options={[
                { value: "by hand", label: "by hand" },
                { value: "by itself", label: "by itself" },
              ]}
              onChange={(open: string) => put({ open: open === "by itself" ? open : undefined })}
              popupMatchSelectWidth={false}
            />
          </span>
          <span className="inline-fields">
            titled
            <Input
              aria-label="Title"
              value={text(body.title)}
              placeholder="{Name}"
              onChange={(e) => setBody({ ...body, title: e.target.value })}
              style={{ width: 220 }}
            />
          </span>
        </div>
      </Line>
      <ConditionLine tracker={tracker} people={people} tabs={tabs} body={body} setBody={setBody} />
      <Line word="Facts">
        <div className="cells-field" role="group" aria-label="Facts">
          <ColumnsField
            label="Columns of the row"
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
              Keep {f.column} as it was when the page was opened
            </Checkbox>
          ))}
        </div>
      </Line>
      <Line word="Own">
        <TypedFields
          label="Fields of the page's own"
          add="Add field"
          value={fields(body.own)}
          onChange={(own) => put({ own: Object.keys(own).length > 0 ? own : undefined })}
        />
      </Line>
      <Line word="Figures">
        <FiguresField value={figures} word="is" fresh="" onChange={setFigures}>
          {(clause, set, i) => (
            <Input
              className="clause"
              aria-label={`Clause of figure ${i + 1}`}
              value={text(clause)}
              onChange={(e) => set(e.target.value)}
              style={{ width: 380 }}
            />
          )}
        </FiguresField>
      </Line>
      <Line word="Tables">
        <TablesField
          tracker={tracker}
          own={columns}
          value={fields(body.tables)}
          onChange={(to) => put({ tables: Object.keys(to).length > 0 ? to : undefined })}
        />
      </Line>
      <Line word="Log">
        <TypedFields
          label="Columns of the log"
          add="Add column to the log"
          value={fields(log.columns)}
          onChange={(all) => put({ log: Object.keys(all).length > 0 ? { ...log, columns: all } : undefined })}
        />
      </Line>
    </>
  );
}
