// A tracker's time zone, how it writes dates, and the days on which people work.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, Input, Select } from "antd";
import { useState } from "react";
import { api, ask, type Tracker } from "../api/client";
import { dateForms, numberForms } from "../parts/writing";
import { ProblemNote } from "../parts/ProblemNote";
import { useChange } from "./useChange";

const days = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"];
const zones = Intl.supportedValuesOf("timeZone");

export function TrackerSettings({ tracker }: { tracker: Tracker }) {
  const [zone, setZone] = useState(tracker.zone);
  const [dates, setDates] = useState(tracker.dates ?? dateForms[0] ?? "");
  const [numbers, setNumbers] = useState(tracker.numbers ?? numberForms[0] ?? "");
  const [week, setWeek] = useState(tracker.working_days?.week ?? []);
  const [closed, setClosed] = useState(tracker.working_days?.closed ?? []);
  const [day, setDay] = useState("");
  const change = useChange();
  const add = () => {
    setClosed([...new Set([...closed, day])].sort());
    setDay("");
  };
  const body = { zone, dates, numbers, working_days: { week, closed } };
  const was = {
    zone: tracker.zone,
    dates: tracker.dates ?? dateForms[0] ?? "",
    numbers: tracker.numbers ?? numberForms[0] ?? "",
    working_days: tracker.working_days ?? { week: [], closed: [] },
  };
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
          value={zone}
          options={[...new Set(["UTC", zone, ...zones])].map((z) => ({ value: z, label: z }))}
          onChange={setZone}
          style={{ width: 260 }}
        />
        <label htmlFor="dates">
          <Trans>Dates are shown as</Trans>
        </label>
        <Select
          id="dates"
          aria-label={t`Dates are shown as`}
          value={dates}
          options={dateForms.map((d) => ({ value: d, label: d }))}
          onChange={setDates}
          style={{ width: 180 }}
        />
        <label htmlFor="numbers">
          <Trans>Numbers are shown as</Trans>
        </label>
        <Select
          id="numbers"
          aria-label={t`Numbers are shown as`}
          value={numbers}
          options={numberForms.map((n) => ({ value: n, label: n }))}
          onChange={setNumbers}
          style={{ width: 180 }}
        />
        <span>
          <Trans>Working days</Trans>
        </span>
        <Checkbox.Group
          value={week}
          options={days.map((d) => ({ value: d, label: (d[0] ?? "").toUpperCase() + d.slice(1, 3) }))}
          onChange={(to) => setWeek(days.filter((d) => to.includes(d)))}
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
                  onClick={() => setClosed(closed.filter((c) => c !== d))}
                >
                  ×
                </Button>
              </li>
            ))}
          </ul>
        </div>
      </div>
      <Button
        type="primary"
        disabled={week.length === 0 || JSON.stringify(body) === JSON.stringify(was)}
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
