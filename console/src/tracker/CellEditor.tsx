// The editor of the active cell; it is there only while somebody types.
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";
import type { Column, Person } from "../api/client";

type Props = {
  column: Column;
  text: string;
  people: Person[];
  onChange: (text: string) => void; // at each key, so that nothing typed is lost
  onDone: (text: string, key: "Enter" | "Tab" | "", shift: boolean) => void;
  onCancel: () => void;
};

export function CellEditor({ column, text, people, onChange, onDone, onCancel }: Props) {
  const [now, setNow] = useState(text);
  const input = useRef<HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement | null>(null);
  const over = useRef(false);
  useEffect(() => {
    const field = input.current;
    field?.focus();
    if (field && !(field instanceof HTMLSelectElement)) field.setSelectionRange(field.value.length, field.value.length);
  }, []);
  const put = (value: string) => {
    setNow(value);
    onChange(value);
  };
  const finish = (key: "Enter" | "Tab" | "", shift = false, value = now) => {
    if (over.current) return;
    over.current = true;
    onDone(value, key, shift);
  };
  const common = {
    ref: (field: HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement | null) => {
      input.current = field;
    },
    className: "cell-editor",
    "aria-label": column.name,
    value: now,
    onBlur: () => finish(""),
    onKeyDown: (e: React.KeyboardEvent) => {
      e.stopPropagation();
      if (e.nativeEvent.isComposing) return; // an input method is still at work
      if (e.key === "Enter" && e.altKey && e.target instanceof HTMLTextAreaElement) {
        e.preventDefault(); // another line within the cell
        const { selectionStart: from, selectionEnd: to } = e.target;
        e.target.setRangeText("\n", from, to, "end");
        put(e.target.value);
      } else if (e.key === "Enter" || e.key === "Tab") {
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
      <select {...common} onChange={(e) => put(e.target.value)}>
        <option value="">
          <Trans>(blank)</Trans>
        </option>
        {column.options?.map((o) => (
          <option key={o.name} value={o.name}>
            {o.name}
          </option>
        ))}
      </select>
    );
  }
  if (column.type === "text") {
    const lines = now.split("\n").length;
    return (
      <textarea
        {...common}
        rows={lines}
        className={lines > 1 ? "cell-editor cell-editor-lines" : "cell-editor"}
        style={lines > 1 ? { height: `${Math.min(lines, 8) * 20 + 10}px` } : undefined}
        onChange={(e) => put(e.target.value)}
        autoComplete="off"
      />
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
        onChange={(e) => put(e.target.value)}
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
