// Some columns in an order: chosen from a list, and put in order by dragging.
import { t } from "@lingui/core/macro";
import { Select } from "antd";
import { OrderHandle } from "../parts/OrderHandle";
import { useOrder } from "../parts/useOrder";
import { TakeOff } from "./TakeOff";

type Props = {
  label: string;
  columns: string[]; // that may be chosen
  value: string[];
  placeholder?: string; // where none is
  titles?: Record<string, string>; // of entries that are no columns
  onChange: (names: string[]) => void;
};

export function ColumnsField({ label, columns, value, placeholder = t`add a column`, titles = {}, onChange }: Props) {
  const order = useOrder(value, onChange);
  const free = columns.filter((c) => !value.includes(c));
  return (
    <span role="group" aria-label={label} className="columns-field">
      {value.map((name, i) => {
        const { entry, handle } = order(i);
        const title = titles[name] ?? name;
        return (
          <span key={name} className="column-tag" {...entry}>
            {value.length > 1 && <OrderHandle label={t`Move ${title}`} {...handle} />}
            {title}
            <TakeOff label={t`Leave out ${title}`} onClick={() => onChange(value.filter((n) => n !== name))} />
          </span>
        );
      })}
      {free.length > 0 && (
        <Select
          showSearch={{ optionFilterProp: "label" }}
          aria-label={t`Add to ${label.toLowerCase()}`}
          value={null}
          placeholder={value.length === 0 ? placeholder : t`add`}
          options={free.map((c) => ({ value: c, label: c }))}
          onChange={(name: string | null) => name !== null && onChange([...value, name])}
          style={{ minWidth: value.length === 0 ? 160 : 80 }}
          popupMatchSelectWidth={false}
        />
      )}
    </span>
  );
}
