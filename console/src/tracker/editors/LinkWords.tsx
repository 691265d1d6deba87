// The words of a link, beside the field of its address.
import { t } from "@lingui/core/macro";
import { Input } from "antd";
import { address, linked } from "../../parts/text";

type Props = {
  text: string;
  onChange: (text: string) => void;
  onDone: (key: "Enter") => void;
};

export function LinkWords({ text, onChange, onDone }: Props) {
  const { to, label } = address(text);
  const words = label === to ? "" : label;
  return (
    <Input
      size="small"
      prefix={<span className="quiet">{t`Text shown`}</span>}
      aria-label={t`Text shown`}
      value={words}
      onChange={(e) => onChange(linked(to, e.target.value))}
      onKeyDown={(e) => e.key === "Enter" && onDone(e.key)}
    />
  );
}
