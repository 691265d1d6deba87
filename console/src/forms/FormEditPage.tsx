// One entry form, edited: which columns it asks for, and what every entry gets besides.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Line } from "../automation/Line";
import { TabField } from "../automation/TabField";
import { Button, Checkbox, Input, InputNumber, Select } from "antd";
import { useParams } from "react-router";
import { CellsField } from "../automation/CellsField";
import type { Parts } from "../automation/DefinitionEditor";
import { begun } from "../automation/Beginnings";
import { formBeginnings } from "./beginnings";
import { EditPage, type Context } from "../automation/EditPage";
import { kinds } from "../automation/kinds";
import { NameLine } from "../automation/NameLine";
import { fields, moved, text, texts, without, yes, type Body } from "../rules/body";
import { TakeOff } from "../automation/TakeOff";

export type Field = { column: string; help: string; required: boolean };

/** readFields gives the fields of a form as the setup file writes them. */
export function readFields(list: unknown): Field[] {
  if (!Array.isArray(list)) return [];
  return list.map((x: unknown) => {
    if (typeof x === "string") return { column: x, help: "", required: false };
    const [column, how] = Object.entries(fields(x))[0] ?? ["", ""];
    if (typeof how === "string") return { column, help: how, required: false };
    return { column, help: text(fields(how).help), required: yes(fields(how).required) };
  });
}

export const writeFields = (all: Field[]): unknown[] =>
  all.map((f) => {
    if (f.required) return { [f.column]: without({ help: f.help, required: "yes" }) };
    return f.help === "" ? f.column : { [f.column]: f.help };
  });

export function formLacks(body: Body): string[] {
  const out: string[] = [];
  if (text(body.name).trim() === "") out.push(t`a name`);
  if (text(body.tab) === "") out.push(t`the tab that rows are added to`);
  if (readFields(body.fields).length === 0) out.push(t`a field`);
  return out;
}

export default function FormEditPage() {
  const { form = "new" } = useParams();
  return (
    <EditPage
      kind={kinds.form}
      definition={form}
      begin={(tracker, from) => begun(formBeginnings(tracker), from)}
      missing={formLacks}
    >
      {(parts) => <FormSentence {...parts} />}
    </EditPage>
  );
}

function FormSentence({ tracker, people, body, setBody }: Parts & Context) {
  const tab = tracker.tabs.find((one) => one.name === text(body.tab));
  const columns = (tab?.columns ?? []).filter((c) => !c.clause);
  const put = (more: Body) => setBody(without({ ...body, ...more }));
  const all = readFields(body.fields);
  const setFields = (to: Field[]) => setBody({ ...body, fields: writeFields(to) });
  const free = columns.filter((c) => !all.some((f) => f.column === c.name));
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word={t`Adds`}>
        <div className="rule-parts">
          <span className="inline-fields">
            <Trans>
              rows to
              <TabField
                tracker={tracker}
                value={text(body.tab)}
                onChange={(name) => setBody({ ...body, tab: name, fields: [] })}
              />
            </Trans>
          </span>
          <Input
            aria-label={t`Above the fields`}
            placeholder={t`What stands above the fields`}
            value={text(body.says)}
            onChange={(e) => put({ says: e.target.value })}
            style={{ width: 420 }}
          />
        </div>
      </Line>
      <Line word={t`Asks`}>
        <div className="cells-field" role="group" aria-label={t`Fields`}>
          {all.map((f, i) => {
            const set = (more: Partial<Field>) => setFields(all.map((x, k) => (k === i ? { ...x, ...more } : x)));
            return (
              <div className="inline-fields" key={f.column}>
                <Select
                  aria-label={t`Field ${i + 1}`}
                  value={f.column}
                  options={[
                    { value: f.column, label: f.column },
                    ...free.map((c) => ({ value: c.name, label: c.name })),
                  ]}
                  onChange={(column: string) => set({ column })}
                  style={{ minWidth: 120 }}
                  popupMatchSelectWidth={false}
                />
                <Input
                  aria-label={t`Help for ${f.column}`}
                  placeholder={t`Help text`}
                  value={f.help}
                  onChange={(e) => set({ help: e.target.value })}
                  style={{ width: 260 }}
                />
                <Checkbox checked={f.required} onChange={(e) => set({ required: e.target.checked })}>
                  <Trans>Required</Trans>
                </Checkbox>
                <span className="together">
                  <Button
                    size="small"
                    type="text"
                    disabled={i === 0}
                    aria-label={t`Move ${f.column} up`}
                    onClick={() => setFields(moved(all, i, -1))}
                  >
                    ↑
                  </Button>
                  <Button
                    size="small"
                    type="text"
                    disabled={i === all.length - 1}
                    aria-label={t`Move ${f.column} down`}
                    onClick={() => setFields(moved(all, i, 1))}
                  >
                    ↓
                  </Button>
                  <TakeOff
                    label={t`Delete field ${f.column}`}
                    onClick={() => setFields(all.filter((_, k) => k !== i))}
                  />
                </span>
              </div>
            );
          })}
          <Button
            type="link"
            size="small"
            disabled={free.length === 0}
            onClick={() => free[0] && setFields([...all, { column: free[0].name, help: "", required: false }])}
          >
            {t`Add field`}
          </Button>
        </div>
      </Line>
      <Line word={t`Sets`}>
        <CellsField
          label={t`What every entry gets besides`}
          columns={columns}
          from={[]}
          people={people}
          value={fields(body.set)}
          onChange={(set) => put({ set: Object.keys(set).length > 0 ? set : undefined })}
        />
      </Line>
      <Line word={t`Then`}>
        <div className="rule-parts">
          <span className="inline-fields">
            <Trans>
              says
              <Input
                aria-label={t`Thanks`}
                placeholder={t`Received. Thank you.`}
                value={text(body.thanks)}
                onChange={(e) => put({ thanks: e.target.value })}
                style={{ width: 320 }}
              />
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              at most
              <InputNumber
                aria-label={t`Entries an hour`}
                min={1}
                placeholder="60"
                value={body.hourly === undefined ? null : Number(text(body.hourly))}
                onChange={(n) => put({ hourly: n ?? undefined })}
                style={{ width: 80 }}
              />
              entries an hour
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              also filled in by people who do not see the tab:
              <Select
                showSearch={{ optionFilterProp: "label" }}
                mode="tags"
                aria-label={t`Also filled in by`}
                value={texts(body["filled in by"])}
                placeholder={t`nobody`}
                options={[
                  { value: "readers", label: t`everyone who is signed in` },
                  ...people.map((p) => ({ value: p.address, label: p.name })),
                ]}
                onChange={(who: string[]) => put({ "filled in by": who })}
                style={{ minWidth: 200 }}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
        </div>
      </Line>
    </>
  );
}
