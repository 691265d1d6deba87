// One chart, edited as a sentence: what is counted, by what, and how it is drawn.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Line } from "../automation/Line";
import { Button, Checkbox, Select } from "antd";
import { useParams } from "react-router";
import { begun } from "../automation/Beginnings";
import { EditPage, type Context } from "../automation/EditPage";
import type { Parts } from "../automation/DefinitionEditor";
import { kinds } from "../automation/kinds";
import { NameLine } from "../automation/NameLine";
import { TypedSelect } from "../automation/TypedSelect";
import { columnsOf, fields, text, texts, without, yes } from "../rules/body";
import { periods, readBy, tallyLacks, writeBy } from "./body";
import { chartBeginnings } from "./beginnings";
import { ConditionLine } from "../automation/ConditionLine";
import { FigureField } from "../automation/FigureField";
import { FiguresField } from "../automation/FiguresField";
import { TabsField } from "../automation/TabsField";
import { TakeOff } from "../automation/TakeOff";

const draws = [
  { value: "bar", label: t`a bar chart` },
  { value: "line", label: t`a line chart` },
  { value: "stacked bar", label: t`a stacked bar chart` },
  { value: "number", label: t`a number` },
];
const earlier = ["7 days", "4 weeks", "1 month", "1 year", "friday", "end of last month", "end of last year"];

export default function ChartPage() {
  const { definition = "new" } = useParams();
  return (
    <EditPage
      kind={kinds.tally}
      definition={definition}
      begin={(tracker, from) => begun(chartBeginnings(tracker), from)}
      missing={tallyLacks}
    >
      {(parts) => <ChartSentence {...parts} />}
    </EditPage>
  );
}

function ChartSentence({ tracker, people, body, setBody }: Parts & Context) {
  const tabs = tracker.tabs.filter((one) => texts(body.of).includes(one.name));
  const columns = columnsOf(tabs);
  const names = columns.map((c) => ({ value: c.name, label: c.name }));
  const put = (more: Record<string, unknown>) => setBody(without({ ...body, ...more }));
  const by = readBy(body.by, columns);
  const figures = Object.entries(fields(body.figures));
  const setFigures = (all: [string, unknown][]) => setBody({ ...body, figures: Object.fromEntries(all) });
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word={t`Rows`}>
        <div className="rule-parts">
          <span className="inline-fields">
            <Trans>
              of
              <TabsField tracker={tracker} value={texts(body.of)} onChange={(of) => setBody({ ...body, of })} />
            </Trans>
          </span>
        </div>
      </Line>
      <ConditionLine tracker={tracker} people={people} tabs={tabs} body={body} setBody={setBody} />
      <Line word={t`By`}>
        {by ? (
          <div className="rule-parts">
            {by.map((b, i) => (
              <span className="inline-fields" key={i}>
                {columns.find((c) => c.name === b.of)?.type.startsWith("date") && (
                  <Select
                    aria-label={t`Period`}
                    value={b.period}
                    options={periods.map((p) => ({ value: p, label: p === "" ? t`each value of` : t`${p} of` }))}
                    onChange={(period: string) =>
                      put({ by: writeBy(by.map((x, k) => (k === i ? { ...x, name: "", period } : x))) })
                    }
                    popupMatchSelectWidth={false}
                  />
                )}
                <Select
                  aria-label={t`Group by`}
                  value={b.of}
                  options={names}
                  onChange={(of: string) =>
                    put({ by: writeBy(by.map((x, k) => (k === i ? { name: of, of, period: "" } : x))) })
                  }
                  popupMatchSelectWidth={false}
                />
                <TakeOff
                  label={t`Do not group by ${b.of}`}
                  onClick={() => put({ by: writeBy(by.filter((_, k) => k !== i)) })}
                />
              </span>
            ))}
            {by.length < 2 && columns[0] && (
              <Button
                type="link"
                size="small"
                onClick={() =>
                  put({
                    by: writeBy([...by, { name: columns[0]?.name ?? "", of: columns[0]?.name ?? "", period: "" }]),
                  })
                }
              >
                {t`Group by a column`}
              </Button>
            )}
          </div>
        ) : (
          <span className="quiet">
            <Trans>what the text form says</Trans>
          </span>
        )}
      </Line>
      <Line word={t`Show`}>
        <FiguresField value={figures} word={t`is the`} fresh="count" onChange={setFigures}>
          {(written, set, i) => <FigureField nth={i + 1} written={text(written)} columns={columns} onChange={set} />}
        </FiguresField>
      </Line>
      <Line word={t`Draw`}>
        <div className="rule-parts">
          <Select
            aria-label={t`Drawn as`}
            value={text(body.draw) || "bar"}
            options={draws}
            onChange={(draw: string) => put({ draw })}
            popupMatchSelectWidth={false}
          />
          <span className="inline-fields">
            <Trans>
              of
              <Select
                aria-label={t`Figure that is drawn`}
                value={text(body.show) || figures[0]?.[0]}
                options={figures.map(([n]) => ({ value: n, label: n }))}
                onChange={(show: string) => put({ show })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              compared with
              <TypedSelect
                label={t`Compared with`}
                value={text(body.compare)}
                placeholder={t`no earlier day`}
                options={earlier.map((e) => ({ value: e, label: e }))}
                onChange={(compare) => put({ compare })}
              />
            </Trans>
            {text(body.compare) !== "" && (
              <TakeOff label={t`Compare with nothing`} onClick={() => put({ compare: undefined })} />
            )}
          </span>
          <Checkbox checked={yes(body.today)} onChange={(e) => put({ today: e.target.checked && "yes" })}>
            <Trans>Show it on Today</Trans>
          </Checkbox>
        </div>
      </Line>
    </>
  );
}
