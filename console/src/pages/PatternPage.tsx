// One kind of page, edited: which rows have one, and what stands on it.
import { Line } from "../automation/Line";
import { Button, Checkbox, Input, Select } from "antd";
import { useParams } from "react-router";
import type { Parts } from "../automation/DefinitionEditor";
import { EditPage, type Context } from "../automation/EditPage";
import { kinds } from "../automation/kinds";
import { NameLine } from "../automation/NameLine";
import { columnsOf, fields, text, texts, without, type Cells } from "../rules/body";
import { newPattern, patternLacks, readFacts, typeOf, withType, writeFacts } from "./pattern";
import { ConditionLine } from "../automation/ConditionLine";
import { FiguresField } from "../automation/FiguresField";
import { TabsField } from "../automation/TabsField";
import { TakeOff } from "../automation/TakeOff";

const types = ["text", "number", "date", "date-time", "checkbox", "choice", "person", "link", "file"];

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
  const tables = Object.keys(fields(body.tables));
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
          <Select
            mode="multiple"
            aria-label="Columns of the row"
            value={facts.map((f) => f.column)}
            options={columns.map((c) => ({ value: c.name, label: c.name }))}
            onChange={(names: string[]) =>
              setBody({
                ...body,
                facts: writeFacts(names.map((n) => facts.find((f) => f.column === n) ?? { column: n, once: false })),
              })
            }
            style={{ minWidth: 260 }}
            popupMatchSelectWidth={false}
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
        <ColumnsField
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
      {tables.length > 0 && (
        <Line word="Tables">
          <span className="quiet">{tables.join(", ")}: see the text form</span>
        </Line>
      )}
      <Line word="Log">
        <ColumnsField
          label="Columns of the log"
          add="Add column to the log"
          value={fields(log.columns)}
          onChange={(all) => put({ log: Object.keys(all).length > 0 ? { ...log, columns: all } : undefined })}
        />
      </Line>
    </>
  );
}

function ColumnsField({
  label,
  add,
  value,
  onChange,
}: {
  label: string;
  add: string;
  value: Cells;
  onChange: (to: Cells) => void;
}) {
  const all = Object.entries(value);
  return (
    <div className="cells-field" role="group" aria-label={label}>
      {all.map(([name, how], i) => (
        <div className="inline-fields" key={i}>
          <Input
            aria-label={`${label}: name ${i + 1}`}
            value={name}
            onChange={(e) =>
              onChange(Object.fromEntries(all.map(([n, h], k) => (k === i ? [e.target.value, h] : [n, h]))))
            }
            style={{ width: 180 }}
          />
          is a
          <Select
            aria-label={`${label}: type ${i + 1}`}
            value={typeOf(how)}
            options={types.map((t) => ({ value: t, label: t }))}
            onChange={(type: string) =>
              onChange(Object.fromEntries(all.map(([n, h], k) => (k === i ? [n, withType(h, type)] : [n, h]))))
            }
            popupMatchSelectWidth={false}
          />
          <TakeOff
            label={`Delete ${name}`}
            onClick={() => onChange(Object.fromEntries(all.filter((_, k) => k !== i)))}
          />
        </div>
      ))}
      <Button
        type="link"
        size="small"
        onClick={() => onChange({ ...value, [`Field ${all.length + 1}`]: { type: "text" } })}
      >
        {add}
      </Button>
    </div>
  );
}
