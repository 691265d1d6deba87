// When something runs: how often, and at which hour.
import { Input, InputNumber, Select } from "antd";
import { days, readClock, writeClock, type Clock } from "./clock";

const often: { value: Clock["every"]; label: string }[] = [
  { value: "day", label: "Every day" },
  { value: "weekday", label: "Every weekday" },
  { value: "week", label: "Every week" },
  { value: "month", label: "Every month" },
  { value: "hours", label: "Every few hours" },
  { value: "other", label: "Another schedule" },
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
      <Select aria-label="How often" value={c.every} options={often} onChange={choose} popupMatchSelectWidth={false} />
      {c.every === "week" && (
        <>
          {" on "}
          <Select
            aria-label="Day of the week"
            value={c.day}
            options={days.map((d) => ({ value: d, label: (d[0] ?? "").toUpperCase() + d.slice(1) }))}
            onChange={(day) => change({ ...c, day })}
          />
        </>
      )}
      {c.every === "month" && (
        <>
          {" on day "}
          <InputNumber
            aria-label="Day of the month"
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
          {" every "}
          <InputNumber
            aria-label="Hours between"
            min={1}
            max={23}
            value={c.n}
            onChange={(n) => change({ ...c, n: n ?? 1 })}
            style={{ width: 64 }}
          />
          {" hours"}
        </>
      )}
      {c.every !== "hours" && c.every !== "other" && (
        <>
          {" at "}
          <Input
            type="time"
            aria-label="At what time"
            value={at}
            onChange={(e) => e.target.value && change({ ...c, at: e.target.value })}
            style={{ width: 110 }}
          />
        </>
      )}
      {c.every === "other" && (
        <Input
          aria-label="Schedule"
          value={c.text}
          placeholder="monthly on last friday at 16:00"
          onChange={(e) => change({ every: "other", text: e.target.value })}
          style={{ width: 280 }}
        />
      )}
    </span>
  );
}
