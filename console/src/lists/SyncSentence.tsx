// Which list and tab are kept in sync, field by field, who wins, and when.
import { Line } from "../automation/Line";
import { TabField } from "../automation/TabField";
import { Button, InputNumber, Select } from "antd";
import type { Definition, ListSample, Tracker } from "../api/client";
import { ClockField } from "../automation/ClockField";
import type { Parts } from "../automation/DefinitionEditor";
import { TypedSelect } from "../automation/TypedSelect";
import { fields, text, without, type Cells } from "../rules/body";
import { pairs } from "./body";
import { NameLine } from "../automation/NameLine";
import { TakeOff } from "../automation/TakeOff";

type Props = Parts & { tracker: Tracker; lists: Definition[]; sample?: ListSample };

const directions = [
  { value: "in", label: "from the list to the tab" },
  { value: "out", label: "from the tab to the list" },
  { value: "both", label: "both ways" },
];
const winners = [
  { value: "hold", label: "waits for a person" },
  { value: "list", label: "takes the list's value" },
  { value: "tab", label: "takes the tab's value" },
  { value: "newest", label: "takes the newest value" },
];
const gones = [
  { value: "keep", label: "are kept" },
  { value: "mark", label: "are marked with a note" },
  { value: "remove", label: "are deleted" },
];

export function SyncSentence({ tracker, lists, sample, body, setBody }: Props) {
  const tab = tracker.tabs.find((t) => t.name === text(body.tab));
  const columns = (tab?.columns ?? []).filter((c) => !c.clause).map((c) => ({ value: c.name, label: c.name }));
  const key = Object.entries(fields(body.key))[0] ?? ["", ""];
  const paired = Object.entries(fields(body.fields));
  const put = (more: Cells) => setBody(without({ ...body, ...more }));
  const at = (sample?.fields ?? []).map((f) => ({
    value: f.at,
    label: f.samples[0] ? `${f.at} (${f.samples[0]})` : f.at,
  }));
  const guard = /^(\d+)%?$/.exec(text(body.guard))?.[1];
  const free = columns.filter((c) => c.value !== key[0] && !paired.some(([name]) => name === c.value));
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word="Keep">
        <div className="rule-parts">
          <span className="inline-fields">
            the tab
            <TabField
              tracker={tracker}
              value={text(body.tab)}
              onChange={(name) => setBody({ ...body, tab: name, key: {}, fields: {} })}
            />
            in sync with
            <Select
              aria-label="List"
              value={text(body.list) || undefined}
              placeholder="choose a list"
              options={lists.map((l) => ({ value: l.name, label: l.name }))}
              onChange={(list: string) => setBody({ ...body, list })}
              popupMatchSelectWidth={false}
            />
          </span>
          <Select
            aria-label="Direction"
            value={text(body.direction) || "in"}
            options={directions}
            onChange={(direction: string) => put({ direction })}
            popupMatchSelectWidth={false}
          />
        </div>
      </Line>
      <Line word="Match">
        <div className="rule-parts">
          <span className="inline-fields">
            <Select
              aria-label="Key column"
              value={key[0] || undefined}
              placeholder="key column"
              options={columns}
              onChange={(name: string) => put({ key: { [name]: key[1] } })}
              popupMatchSelectWidth={false}
            />
            is
            <TypedSelect
              label="Key field"
              value={text(key[1])}
              placeholder="a field of the list"
              options={at}
              onChange={(field) => put({ key: { [key[0] || (columns[0]?.value ?? "")]: field } })}
            />
          </span>
          {tab && sample && (
            <Button size="small" onClick={() => setBody({ ...body, ...pairs(tab, sample) })}>
              Pair by name
            </Button>
          )}
        </div>
      </Line>
      <Line word="Fields">
        <div className="cells-field" role="group" aria-label="Fields">
          {paired.map(([name, field], i) => (
            <div key={name} className="inline-fields">
              <Select
                aria-label="Column"
                value={name}
                options={[{ value: name, label: name }, ...free]}
                onChange={(to: string) =>
                  put({ fields: Object.fromEntries(paired.map(([n, f], k) => (k === i ? [to, f] : [n, f]))) })
                }
                popupMatchSelectWidth={false}
              />
              is
              <TypedSelect
                label={`Field for ${name}`}
                value={text(field)}
                placeholder="a field of the list"
                options={at}
                onChange={(to) =>
                  put({ fields: Object.fromEntries(paired.map(([n, f], k) => (k === i ? [n, to] : [n, f]))) })
                }
              />
              <TakeOff
                label={`Do not sync ${name}`}
                onClick={() => setBody({ ...body, fields: Object.fromEntries(paired.filter((_, k) => k !== i)) })}
              />
            </div>
          ))}
          <Button
            type="link"
            size="small"
            disabled={free.length === 0}
            onClick={() => free[0] && put({ fields: { ...fields(body.fields), [free[0].value]: "" } })}
          >
            Add field
          </Button>
        </div>
      </Line>
      <Line word="When">
        <div className="rule-parts">
          <ClockField value={text(body.clock) || "daily at 06:00"} onChange={(clock) => put({ clock })} />
          {text(body.clock) === "" && <span className="quiet">not scheduled yet: choose a time</span>}
        </div>
      </Line>
      <Line>
        <div className="rule-parts">
          <span className="inline-fields">
            What both sides changed
            <Select
              aria-label="Conflicts"
              value={text(body.conflict) || "hold"}
              options={winners}
              onChange={(conflict: string) => put({ conflict })}
              popupMatchSelectWidth={false}
            />
          </span>
          <span className="inline-fields">
            Rows missing from the other side
            <Select
              aria-label="Missing rows"
              value={typeof body.gone === "string" ? body.gone : "keep"}
              disabled={body.gone !== undefined && typeof body.gone !== "string"}
              options={gones}
              onChange={(gone: string) => put({ gone })}
              popupMatchSelectWidth={false}
            />
          </span>
          <span className="inline-fields">
            Stop if more than
            <InputNumber
              aria-label="Change limit in percent"
              min={1}
              max={100}
              value={guard ? Number(guard) : 50}
              onChange={(n) => put({ guard: n ? `${n}%` : undefined })}
              style={{ width: 70 }}
            />
            % would change
          </span>
        </div>
      </Line>
    </>
  );
}
