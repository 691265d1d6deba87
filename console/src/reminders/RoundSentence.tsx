// A round: when one email goes to each person, with which reminders, and how it is worded.
import { Line } from "../automation/Line";
import { Input, Select } from "antd";
import type { Definition } from "../api/client";
import { ClockField } from "../automation/ClockField";
import { NameLine } from "../automation/NameLine";
import type { Parts } from "../automation/DefinitionEditor";
import { text, texts, without } from "../rules/body";

const every = ["all", "all trackers"];

type Props = Parts & { reminders: Definition[]; attachable: Definition[] };

export function RoundSentence({ body, setBody, reminders, attachable }: Props) {
  const put = (more: Record<string, unknown>) => setBody(without({ ...body, ...more }));
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word="When">
        <ClockField value={text(body.clock)} onChange={(clock) => setBody({ ...body, clock })} />
      </Line>
      <Line word="Send">
        <div className="rule-parts">
          <Select
            mode="multiple"
            aria-label="Reminders"
            value={texts(body.reminders)}
            options={[
              { value: "all", label: "all reminders" },
              { value: "all trackers", label: "all reminders of all trackers" },
              ...reminders.map((r) => ({ value: r.name, label: r.name })),
            ]}
            onChange={(names: string[]) => {
              const last = names[names.length - 1] ?? "";
              setBody({ ...body, reminders: every.includes(last) ? last : names.filter((n) => !every.includes(n)) });
            }}
            style={{ minWidth: 240 }}
            popupMatchSelectWidth={false}
          />
          <span className="inline-fields">
            with
            <Select
              mode="multiple"
              aria-label="Attached"
              value={texts(body.attach)}
              placeholder="nothing attached"
              options={attachable.map((d) => ({ value: d.name, label: d.name }))}
              onChange={(attach: string[]) => put({ attach })}
              style={{ minWidth: 200 }}
              popupMatchSelectWidth={false}
            />
          </span>
        </div>
      </Line>
      <Line word="Text">
        <div className="rule-parts">
          {(["subject", "opening", "closing"] as const).map((part) => (
            <span className="inline-fields" key={part}>
              {part}
              <Input
                aria-label={part}
                placeholder="as usual"
                value={text(body[part])}
                onChange={(e) => put({ [part]: e.target.value })}
                style={{ width: 420 }}
              />
            </span>
          ))}
          <span className="quiet">
            In braces: <code>{"{count}"}</code> rows, <code>{"{name}"}</code> the recipient.
          </span>
        </div>
      </Line>
      <Line>
        <span className="inline-fields">
          On a day that is no working day it is
          <Select
            aria-label="On closed days"
            value={text(body["closed days"])}
            options={[
              { value: "", label: "sent all the same" },
              { value: "skip", label: "skipped" },
              { value: "next working day", label: "sent on the next working day" },
            ]}
            onChange={(closed: string) => put({ "closed days": closed })}
            popupMatchSelectWidth={false}
          />
        </span>
      </Line>
      <Line>
        <span className="inline-fields">
          After downtime, a missed email is
          <Select
            aria-label="After downtime"
            value={text(body.missed) || "run once"}
            options={[
              { value: "run once", label: "sent once" },
              { value: "skip", label: "skipped" },
            ]}
            onChange={(missed: string) => put({ missed: missed === "skip" ? missed : undefined })}
            popupMatchSelectWidth={false}
          />
        </span>
      </Line>
    </>
  );
}
