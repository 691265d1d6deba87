// A word of a sentence with a text that one types after it.
import { Input } from "antd";

type Props = {
  word: string;
  label: string;
  placeholder?: string;
  value: string;
  width: number; // in pixels
  onChange: (text: string) => void;
};

export function TextField({ word, label, placeholder, value, width, onChange }: Props) {
  return (
    <span className="inline-fields">
      {word}
      <Input
        aria-label={label}
        placeholder={placeholder}
        value={value}
        onChange={(e) => onChange(e.target.value)}
        style={{ width }}
      />
    </span>
  );
}
