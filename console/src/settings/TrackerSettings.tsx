// A tracker's time zone, how it writes dates, and the days on which people work.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, Input, Select } from "antd";
import { useMemo, useState } from "react";
import { api, ask, type Tracker } from "../api/client";
import { dateForms, numberForms } from "../parts/writing";
import { Overtaken } from "../parts/Overtaken";
import { ProblemNote } from "../parts/ProblemNote";
import { useFields } from "../parts/useFields";
import { useChange } from "./useChange";

const days = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"];
const zones = Intl.supportedValuesOf("timeZone");

export function TrackerSettings({ tracker }: { tracker: Tracker }) {
  const saved = useMemo(
    () => ({ zone: tracker.zone, dates: tracker.dates ?? dateForms[0], numbers: tracker.numbers ?? numberForms[0] }),
    [tracker],
  );
  const { fields, put, changed, isChanged, overtaken } = useFields(saved);
  const savedDays = useMemo(() => {
    const { week, closed } = tracker.working_days ?? { week: [], closed: [] };
    return Object.fromEntries([...(week ?? []), ...(closed ?? [])].map((day) => [day, true as const]));
  }, [tracker]);
  const calendar = useFields<Record<string, true | undefined>>(savedDays); // a field for each day: two people's add up
  const chosen = Object.keys(calendar.fields).filter((d) => calendar.fields[d]);
  const week = days.filter((d) => chosen.includes(d));
  const closed = chosen.filter((d) => !days.includes(d)).sort();
  const [day, setDay] = useState("");
  const change = useChange();
  const add = () => {
    calendar.put({ [day]: true });
    setDay("");
  };
  const body = { ...changed, ...(calendar.isChanged ? { working_days: { week, closed } } : {}) };
  const named = { zone: t`Time zone`, dates: t`Dates are shown as`, numbers: t`Numbers are shown as` };
  return (
    <section className="section settings" aria-label={t`Dates, numbers and working days`}>
      <h2>
        <Trans>Dates, numbers and working days</Trans>
      </h2>
      <div className="settings-fields">
        <label htmlFor="zone">
          <Trans>Time zone</Trans>
        </label>
        <Select
          showSearch={{ optionFilterProp: "label" }}
          id="zone"
          aria-label={t`Time zone`}
          value={fields.zone}
          options={[...new Set(["UTC", fields.zone, ...zones])].map((z) => ({ value: z, label: z }))}
          onChange={(zone: string) => put({ zone })}
          style={{ width: 260 }}
        />
        <label htmlFor="dates">
          <Trans>Dates are shown as</Trans>
        </label>
        <Select
          id="dates"
          aria-label={t`Dates are shown as`}
          value={fields.dates}
          options={dateForms.map((d) => ({ value: d, label: d }))}
          onChange={(dates: string) => put({ dates })}
          style={{ width: 180 }}
        />
        <label htmlFor="numbers">
          <Trans>Numbers are shown as</Trans>
        </label>
        <Select
          id="numbers"
          aria-label={t`Numbers are shown as`}
          value={fields.numbers}
          options={numberForms.map((n) => ({ value: n, label: n }))}
          onChange={(numbers: string) => put({ numbers })}
          style={{ width: 180 }}
        />
        <span>
          <Trans>Working days</Trans>
        </span>
        <Checkbox.Group
          value={week}
          options={days.map((d) => ({ value: d, label: (d[0] ?? "").toUpperCase() + d.slice(1, 3) }))}
          onChange={(to) => calendar.put(Object.fromEntries(days.map((d) => [d, to.includes(d) || undefined])))}
        />
        <label htmlFor="closed">
          <Trans>Closed days</Trans>
        </label>
        <div>
          <span className="inline-fields">
            <Input
              id="closed"
              type="date"
              value={day}
              onChange={(e) => setDay(e.target.value)}
              style={{ width: 160 }}
            />
            <Button disabled={day === ""} onClick={add}>
              {t`Add day`}
            </Button>
          </span>
          <ul className="plain closed-days" aria-label={t`Closed days`}>
            {closed.map((d) => (
              <li key={d}>
                {d}
                <Button
                  type="text"
                  size="small"
                  aria-label={t`Remove ${d}`}
                  onClick={() => calendar.put({ [d]: undefined })}
                >
                  ×
                </Button>
              </li>
            ))}
          </ul>
        </div>
      </div>
      <Overtaken fields={overtaken.map((k) => ({ called: named[k], now: saved[k] ?? "" }))} />
      <Button
        type="primary"
        disabled={week.length === 0 || !(isChanged || calendar.isChanged)}
        loading={change.isPending}
        onClick={() =>
          change.mutate({
            work: () =>
              ask(api.PATCH("/api/v1/trackers/{tracker}", { params: { path: { tracker: tracker.id } }, body })),
            says: t`Saved dates, numbers and working days`,
          })
        }
      >
        {t`Save`}
      </Button>
      {week.length === 0 && (
        <span className="soon">
          {" "}
          <Trans>Choose at least one working day.</Trans>
        </span>
      )}
      {change.isError && <ProblemNote error={change.error} />}
    </section>
  );
}
