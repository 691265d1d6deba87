// The editor of the active cell; it is there only while somebody types.
import { useEffect, useRef, useState } from "react";
import type { Column, Person } from "../api/client";

type Props = {
  column: Column;
  text: string;
  people: Person[];
  onDone: (text: string, key: "Enter" | "Tab" | "", shift: boolean) => void;
  onCancel: () => void;
};

export function CellEditor({ column, text, people, onDone, onCancel }: Props) {
  const [now, setNow] = useState(text);
  const input = useRef<HTMLInputElement | HTMLSelectElement | null>(null);
  const over = useRef(false);
  useEffect(() => {
    const field = input.current;
    field?.focus();
    if (field instanceof HTMLInputElement) field.setSelectionRange(field.value.length, field.value.length);
  }, []);
  const finish = (key: "Enter" | "Tab" | "", shift = false, value = now) => {
    if (over.current) return;
    over.current = true;
    onDone(value, key, shift);
  };
  const common = {
    ref: (field: HTMLInputElement | HTMLSelectElement | null) => {
      input.current = field;
    },
    className: "cell-editor",
    "aria-label": column.name,
    value: now,
    onBlur: () => finish(""),
    onKeyDown: (e: React.KeyboardEvent) => {
      e.stopPropagation();
      if (e.nativeEvent.isComposing) return; // an input method is still at work
      if (e.key === "Enter" || e.key === "Tab") {
        e.preventDefault();
        finish(e.key, e.shiftKey);
      } else if (e.key === "Escape") {
        e.preventDefault();
        over.current = true;
        onCancel();
      }
    },
  };
  if (column.type === "choice" && !column.several) {
    return (
      <select {...common} onChange={(e) => setNow(e.target.value)}>
        <option value="">(blank)</option>
        {column.options?.map((o) => (
          <option key={o.name} value={o.name}>
            {o.name}
          </option>
        ))}
      </select>
    );
  }
  const placeholder =
    { date: "2026-03-31", "date-time": "2026-03-31T08:30", person: "name@example.org", link: "https://" }[
      column.type
    ] ?? "";
  return (
    <>
      <input
        {...common}
        type="text"
        placeholder={placeholder}
        list={column.type === "person" ? "people" : undefined}
        onChange={(e) => setNow(e.target.value)}
        autoComplete="off"
      />
      {column.type === "person" && (
        <datalist id="people">
          {people.map((p) => (
            <option key={p.address} value={p.address}>
              {p.name}
            </option>
          ))}
        </datalist>
      )}
    </>
  );
}
