// A choice of some values, or of what one types.
import { Select } from "antd";
import { useState } from "react";

type Option = { value: string; label: string };
type Props = {
  label: string;
  value: string;
  placeholder?: string;
  size?: "small";
  options: Option[];
  typedAs?: (text: string) => Option; // what a typed text stands for
  onChange: (value: string) => void;
};

export function TypedSelect({ label, value, placeholder, size, options, typedAs, onChange }: Props) {
  const [typed, setTyped] = useState("");
  const more: Option[] = [];
  const knows = (v: string) => options.some((o) => o.value === v);
  if (value !== "" && !knows(value)) more.push({ value, label: value });
  const own = typed.trim() === "" ? undefined : (typedAs ?? ((text: string) => ({ value: text, label: text })))(typed);
  if (own && own.value !== value && !options.some((o) => o.value === own.value || o.label === own.label))
    more.push(own);
  return (
    <Select
      aria-label={label}
      showSearch={{ optionFilterProp: "label", onSearch: setTyped }}
      value={value === "" ? undefined : value}
      placeholder={placeholder}
      size={size}
      options={[...more, ...options]}
      onChange={(v: string) => {
        setTyped("");
        onChange(v);
      }}
      style={{ minWidth: 150 }}
      popupMatchSelectWidth={false}
    />
  );
}
