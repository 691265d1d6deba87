// Which list and tab are kept in sync, field by field, who wins, and when.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Line } from "../automation/Line";
import { TabField } from "../automation/TabField";
import { Button, InputNumber, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { api, ask, type Definition, type ListSample, type Tracker } from "../api/client";
import { ClockField } from "../automation/ClockField";
import type { Parts } from "../automation/DefinitionEditor";
import { TypedSelect } from "../automation/TypedSelect";
import { fields, text, without, type Cells } from "../rules/body";
import { pairs } from "./body";
import { NameLine } from "../automation/NameLine";
import { FieldsInSync } from "./FieldsInSync";

type Props = Parts & { tracker: Tracker; lists: Definition[]; sample?: ListSample };

const directions = [
  { value: "in", label: t`from the list to the tab` },
  { value: "out", label: t`from the tab to the list` },
  { value: "both", label: t`both ways` },
];
const winners = [
  { value: "hold", label: t`waits for a person` },
  { value: "list", label: t`takes the list's value` },
  { value: "tab", label: t`takes the tab's value` },
  { value: "newest", label: t`takes the newest value` },
];
const gones = [
  { value: "keep", label: t`are kept` },
  { value: "mark", label: t`are marked with a note` },
  { value: "remove", label: t`are deleted` },
];

const looked = 500; // rows of the tab whose values are compared with the list's

export function SyncSentence({ tracker, lists, sample, body, setBody }: Props) {
  const tab = tracker.tabs.find((one) => one.name === text(body.tab));
  const columns = (tab?.columns ?? []).filter((c) => !c.clause).map((c) => ({ value: c.name, label: c.name }));
  const key = Object.entries(fields(body.key))[0] ?? ["", ""];
  const put = (more: Cells) => setBody(without({ ...body, ...more }));
  const at = (sample?.fields ?? []).map((f) => ({
    value: f.at,
    label: f.samples[0] ? `${f.at} (${f.samples[0]})` : f.at,
  }));
  const guard = /^(\d+)%?$/.exec(text(body.guard))?.[1];
  const rows = useQuery({
    queryKey: ["values", tracker.id, tab?.id],
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
          params: { path: { tracker: tracker.id, tab: tab?.id ?? "" }, query: { limit: looked } },
        }),
      ),
    enabled: tab !== undefined && sample !== undefined,
    staleTime: 60_000,
  });
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word={t`Keep`}>
        <div className="rule-parts">
          <span className="inline-fields">
            <Trans>
              the tab
              <TabField
                tracker={tracker}
                value={text(body.tab)}
                onChange={(name) => setBody({ ...body, tab: name, key: {}, fields: {} })}
              />
              in sync with
              <Select
                aria-label={t`List`}
                value={text(body.list) || undefined}
                placeholder={t`choose a list`}
                options={lists.map((l) => ({ value: l.name, label: l.name }))}
                onChange={(list: string) => setBody({ ...body, list })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
          <Select
            aria-label={t`Direction`}
            value={text(body.direction) || "in"}
            options={directions}
            onChange={(direction: string) => put({ direction })}
            popupMatchSelectWidth={false}
          />
        </div>
      </Line>
      <Line word={t`Match`}>
        <div className="rule-parts">
          <span className="inline-fields">
            <Trans>
              <Select
                aria-label={t`Key column`}
                value={key[0] || undefined}
                placeholder={t`key column`}
                options={columns}
                onChange={(name: string) => put({ key: { [name]: key[1] } })}
                popupMatchSelectWidth={false}
              />
              is
              <TypedSelect
                label={t`Key field`}
                value={text(key[1])}
                placeholder={t`a field of the list`}
                options={at}
                onChange={(field) => put({ key: { [key[0] || (columns[0]?.value ?? "")]: field } })}
              />
            </Trans>
          </span>
          {tab && sample && (
            <Button
              size="small"
              title={t`By their names, and by values that both sides have`}
              loading={rows.isLoading}
              onClick={() => setBody({ ...body, ...pairs(tab, sample, rows.data?.rows) })}
            >
              {t`Pair fields`}
            </Button>
          )}
        </div>
      </Line>
      <Line word={t`Fields`}>
        <FieldsInSync
          columns={columns.map((c) => c.value).filter((name) => name !== key[0])}
          pairs={fields(body.fields)}
          sample={sample}
          used={text(key[1])}
          onChange={(fields) => put({ fields })}
        />
      </Line>
      <Line word={t`When`}>
        <div className="rule-parts">
          <ClockField value={text(body.clock) || "daily at 06:00"} onChange={(clock) => put({ clock })} />
          {text(body.clock) === "" && (
            <span className="quiet">
              <Trans>not scheduled yet: choose a time</Trans>
            </span>
          )}
        </div>
      </Line>
      <Line>
        <div className="rule-parts">
          <span className="inline-fields">
            <Trans>
              What both sides changed
              <Select
                aria-label={t`Conflicts`}
                value={text(body.conflict) || "hold"}
                options={winners}
                onChange={(conflict: string) => put({ conflict })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              Rows missing from the other side
              <Select
                aria-label={t`Missing rows`}
                value={typeof body.gone === "string" ? body.gone : "keep"}
                disabled={body.gone !== undefined && typeof body.gone !== "string"}
                options={gones}
                onChange={(gone: string) => put({ gone })}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
          <span className="inline-fields">
            <Trans>
              Stop if more than
              <InputNumber
                aria-label={t`Change limit in percent`}
                min={1}
                max={100}
                value={guard ? Number(guard) : 50}
                onChange={(n) => put({ guard: n ? `${n}%` : undefined })}
                style={{ width: 70 }}
              />
              % would change
            </Trans>
          </span>
        </div>
      </Line>
    </>
  );
}
