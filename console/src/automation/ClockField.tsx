// When something runs: how often, and at which hour.
import { t } from "@lingui/core/macro";
import { Input, InputNumber, Select } from "antd";
import { days, readClock, writeClock, type Clock } from "./clock";

const often: { value: Clock["every"]; label: string }[] = [
  { value: "day", label: t`Every day` },
  { value: "weekday", label: t`Every weekday` },
  { value: "week", label: t`Every week` },
  { value: "month", label: t`Every month` },
  { value: "hours", label: t`Every few hours` },
  { value: "other", label: t`Another schedule` },
];

type Props = { value: string; onChange: (phrase: string) => void };

export function ClockField({ value, onChange }: Props) {
  const c = readClock(value);
  const at = c.every === "other" || c.every === "hours" ? "08:00" : c.at.padStart(5, "0");
  const change = (to: Clock) => onChange(writeClock(to));
  const choose = (every: Clock["every"]) => {
    if (every === "other") change({ every, text: value });
    else if (every === "week") change({ every, day: "monday", at });
    else change({ every, at, n: every === "hours" ? 2 : 1 });
  };
  return (
    <span className="inline-fields">
      <Select
        aria-label={t`How often`}
        value={c.every}
        options={often}
        onChange={choose}
        popupMatchSelectWidth={false}
      />
      {c.every === "week" && (
        <>
          {" "}
          {t`on`}{" "}
          <Select
            aria-label={t`Day of the week`}
            value={c.day}
            options={days.map((d) => ({ value: d, label: (d[0] ?? "").toUpperCase() + d.slice(1) }))}
            onChange={(day) => change({ ...c, day })}
          />
        </>
      )}
      {c.every === "month" && (
        <>
          {" "}
          {t`on day`}{" "}
          <InputNumber
            aria-label={t`Day of the month`}
            min={1}
            max={31}
            value={c.n}
            onChange={(n) => change({ ...c, n: n ?? 1 })}
            style={{ width: 64 }}
          />
        </>
      )}
      {c.every === "hours" && (
        <>
          {" "}
          {t`every`}{" "}
          <InputNumber
            aria-label={t`Hours between`}
            min={1}
            max={23}
            value={c.n}
            onChange={(n) => change({ ...c, n: n ?? 1 })}
            style={{ width: 64 }}
          />{" "}
          {t`hours`}
        </>
      )}
      {c.every !== "hours" && c.every !== "other" && (
        <>
          {" "}
          {t`at`}{" "}
          <Input
            type="time"
            aria-label={t`At what time`}
            value={at}
            onChange={(e) => e.target.value && change({ ...c, at: e.target.value })}
            style={{ width: 110 }}
          />
        </>
      )}
      {c.every === "other" && (
        <Input
          aria-label={t`Schedule`}
          value={c.text}
          placeholder={t`monthly on last friday at 16:00`}
          onChange={(e) => change({ every: "other", text: e.target.value })}
          style={{ width: 280 }}
        />
      )}
    </span>
  );
}
