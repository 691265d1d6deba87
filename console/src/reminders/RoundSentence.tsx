// A round: when one email goes to each person, with which reminders, and how it is worded.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Line } from "../automation/Line";
import { Input, Select } from "antd";
import type { Definition } from "../api/client";
import { ClockField } from "../automation/ClockField";
import { NameLine } from "../automation/NameLine";
import type { Parts } from "../automation/DefinitionEditor";
import { text, texts, without } from "../rules/body";

const every = ["all", "all trackers"];
const wordings = { subject: t`subject`, opening: t`opening`, closing: t`closing` };

type Props = Parts & { reminders: Definition[]; attachable: Definition[] };

export function RoundSentence({ body, setBody, reminders, attachable }: Props) {
  const put = (more: Record<string, unknown>) => setBody(without({ ...body, ...more }));
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word={t`When`}>
        <ClockField value={text(body.clock)} onChange={(clock) => setBody({ ...body, clock })} />
      </Line>
      <Line word={t`Send`}>
        <div className="rule-parts">
          <Select
            showSearch={{ optionFilterProp: "label" }}
            mode="multiple"
            aria-label={t`Reminders`}
            placeholder={t`choose reminders`}
            value={texts(body.reminders)}
            options={[
              { value: "all", label: t`all reminders` },
              { value: "all trackers", label: t`all reminders of all trackers` },
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
            <Trans>
              with
              <Select
                showSearch={{ optionFilterProp: "label" }}
                mode="multiple"
                aria-label={t`Attached`}
                value={texts(body.attach)}
                placeholder={t`nothing attached`}
                options={attachable.map((d) => ({ value: d.name, label: d.name }))}
                onChange={(attach: string[]) => put({ attach })}
                style={{ minWidth: 200 }}
                popupMatchSelectWidth={false}
              />
            </Trans>
          </span>
        </div>
      </Line>
      <Line word={t`Text`}>
        <div className="rule-parts">
          {Object.entries(wordings).map(([part, label]) => (
            <span className="inline-fields" key={part}>
              <span className="text-word">{label}</span>
              <Input
                aria-label={label}
                placeholder={t`as usual`}
                value={text(body[part])}
                onChange={(e) => put({ [part]: e.target.value })}
                style={{ width: 420 }}
              />
            </span>
          ))}
          <span className="quiet">
            <Trans>In braces:</Trans> <code>{"{count}"}</code> <Trans>rows,</Trans> <code>{"{name}"}</code>{" "}
            <Trans>the recipient.</Trans>
          </span>
        </div>
      </Line>
      <Line>
        <span className="inline-fields">
          <Trans>
            On a day that is no working day it is
            <Select
              aria-label={t`On closed days`}
              value={text(body["closed days"])}
              options={[
                { value: "", label: t`sent all the same` },
                { value: "skip", label: t`skipped` },
                { value: "next working day", label: t`sent on the next working day` },
              ]}
              onChange={(closed: string) => put({ "closed days": closed })}
              popupMatchSelectWidth={false}
            />
          </Trans>
        </span>
      </Line>
      <Line>
        <span className="inline-fields">
          <Trans>
            After downtime, a missed email is
            <Select
              aria-label={t`After downtime`}
              value={text(body.missed) || "run once"}
              options={[
                { value: "run once", label: t`sent once` },
                { value: "skip", label: t`skipped` },
              ]}
              onChange={(missed: string) => put({ missed: missed === "skip" ? missed : undefined })}
              popupMatchSelectWidth={false}
            />
          </Trans>
        </span>
      </Line>
    </>
  );
}
