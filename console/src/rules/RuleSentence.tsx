// A rule as a sentence: when, if, then, each part a control.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Line } from "../automation/Line";
import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input, InputNumber, Select } from "antd";
import type { Person, Tracker } from "../api/client";
import { NameLine } from "../automation/NameLine";
import type { Parts } from "../automation/DefinitionEditor";
import {
  byEdit,
  kindOf,
  kinds,
  kindSays,
  moved,
  newStep,
  steps,
  tabsOf,
  text,
  wakeOf,
  without,
  yes,
  type Step,
} from "./body";
import { StepPart } from "./StepPart";
import { WakePart } from "./WakePart";
import { ConditionLine } from "../automation/ConditionLine";
import { kinds as service, list } from "../automation/kinds";
import { TakeOff } from "../automation/TakeOff";

type Props = Parts & { tracker: Tracker; trackers: Tracker[]; people: Person[] };

export function RuleSentence(props: Props) {
  const { tracker, people, body, setBody } = props;
  const tabs = tabsOf(body, tracker.tabs);
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <WakePart tracker={tracker} people={people} body={body} onChange={setBody} />
      {wakeOf(body).file === undefined && (
        <ConditionLine
          tracker={tracker}
          people={people}
          tabs={tabs}
          edits={byEdit(body)}
          body={body}
          setBody={setBody}
        />
      )}
      <Steps {...props} />
      <Line>
        <div className="rule-parts">
          <Checkbox
            checked={yes(body["watching only"])}
            onChange={(e) => setBody(without({ ...body, "watching only": e.target.checked && "yes" }))}
          >
            <Trans>Dry run: only record what it would change</Trans>
          </Checkbox>
          <span className="inline-fields">
            <Trans>
              Change at most
              <InputNumber
                aria-label={t`Most rows that it may change`}
                min={1}
                placeholder={t`any`}
                value={body.limit === undefined ? null : Number(text(body.limit))}
                onChange={(n) => setBody(without({ ...body, limit: n ?? undefined }))}
                style={{ width: 80 }}
              />
              rows in one go
            </Trans>
          </span>
          <Input
            aria-label={t`Remark`}
            placeholder={t`Remark: why there is this rule`}
            value={text(body.remark)}
            onChange={(e) => setBody(without({ ...body, remark: e.target.value }))}
            style={{ maxWidth: 520 }}
          />
        </div>
      </Line>
    </>
  );
}

function Steps({ tracker, trackers, people, body, setBody }: Props) {
  const tabs = tabsOf(body, tracker.tabs);
  const all = steps(body);
  const reminders = useQuery({
    queryKey: ["reminders", tracker.id],
    queryFn: () => list(service.reminder, tracker.id),
  });
  const setSteps = (to: Step[]) => setBody({ ...body, steps: to });
  return (
    <>
      {all.map((step, i) => (
        <div className="rule-line" key={i} role="group" aria-label={t`Step ${i + 1}`}>
          <span className="rule-word">{i === 0 ? t`Then` : t`and`}</span>
          <div className="rule-parts">
            <span className="inline-fields">
              <Select
                aria-label={t`What step ${i + 1} does`}
                value={kindOf(step)}
                options={kinds.map((k) => ({ value: k, label: kindSays[k] }))}
                onChange={(k) => setSteps(all.map((s, n) => (n === i ? newStep(k, tabs, tracker.tabs) : s)))}
                popupMatchSelectWidth={false}
              />
              {all.length > 1 && (
                <>
                  <Button
                    size="small"
                    type="text"
                    disabled={i === 0}
                    aria-label={t`Move step ${i + 1} up`}
                    onClick={() => setSteps(moved(all, i, -1))}
                  >
                    ↑
                  </Button>
                  <Button
                    size="small"
                    type="text"
                    disabled={i === all.length - 1}
                    aria-label={t`Move step ${i + 1} down`}
                    onClick={() => setSteps(moved(all, i, 1))}
                  >
                    ↓
                  </Button>
                </>
              )}
              <TakeOff label={t`Delete step ${i + 1}`} onClick={() => setSteps(all.filter((_, n) => n !== i))} />
            </span>
            <StepPart
              tracker={tracker}
              trackers={trackers}
              people={people}
              tabs={tabs}
              byRows={wakeOf(body).file === undefined}
              reminders={reminders.data ?? []}
              step={step}
              onChange={(to) => setSteps(all.map((s, n) => (n === i ? to : s)))}
            />
          </div>
        </div>
      ))}
      <Line word={all.length === 0 ? t`Then` : ""}>
        <Button
          size="small"
          onClick={() => setSteps([...all, newStep(all.length === 0 ? "move" : "set", tabs, tracker.tabs)])}
        >
          {t`Add step`}
        </Button>
      </Line>
    </>
  );
}
