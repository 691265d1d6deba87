// A month to choose a day from, beside a field in which one types. The field has the keys.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Calendar, Input } from "antd";
import weekFromMonday from "antd/es/calendar/locale/en_GB";
import dayjs from "dayjs";
import "dayjs/locale/en-gb";
import { dayOf, isoDay, moment, morning } from "./readDay";

type Props = {
  text: string;
  today: string; // as 2026-03-31
  withTime: boolean;
  onPick: (text: string, whole: boolean) => void; // whole: nothing more is to be said
};

export function DayPicker({ text, today, withTime, onPick }: Props) {
  const { day, clock, read } = dayOf(text, today);
  const is = dayjs(day);
  return (
    <div className="cell-days">
      {read !== undefined && (
        <p role="status">
          {is.format("ddd")} {read.replace("T", " ")}
        </p>
      )}
      <Calendar
        fullscreen={false}
        locale={weekFromMonday}
        value={is}
        onSelect={(d, { source }) => {
          const picked = d.format(isoDay);
          onPick(withTime ? moment(picked, clock ?? morning) : picked, source === "date" && !withTime);
        }}
      />
      {withTime && (
        <label className="inline-fields">
          <Trans>Time</Trans>
          <Input
            type="time"
            size="small"
            aria-label={t`Time`}
            value={clock}
            onChange={(e) => onPick(moment(day, e.target.value), false)}
          />
        </label>
      )}
    </div>
  );
}
