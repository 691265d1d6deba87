// A clause as it is written: checked by the service while one types, with what could stand
// where one types.
import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { useEffect, useRef, useState } from "react";
import { api, ask } from "../api/client";

type Props = {
  tracker: string;
  tabs: string[];
  edits?: boolean;
  kind?: "condition" | "value" | "template";
  label: string;
  value: string;
  onChange: (clause: string) => void;
};

const rest = 200; // milliseconds without a key before it is checked
const encoder = new TextEncoder();
const decoder = new TextDecoder();

export function ClauseField({ tracker, tabs, edits, kind = "condition", label, value, onChange }: Props) {
  const [asked, setAsked] = useState({ text: value, at: value.length });
  const [at, setAt] = useState(value.length);
  const field = useRef<HTMLTextAreaElement | null>(null);
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked({ text: value, at }), rest);
    return () => window.clearTimeout(timer);
  }, [value, at]);
  const answer = useQuery({
    queryKey: ["clause", tracker, tabs, edits, kind, asked],
    queryFn: () =>
      ask(
        api.POST("/api/v1/clauses/check", {
          body: {
            tracker,
            tabs,
            kind,
            text: asked.text,
            edit: edits ?? false,
            at: encoder.encode(asked.text.slice(0, asked.at)).length,
          },
        }),
      ),
    placeholderData: (before) => before,
  });
  const current = answer.data && asked.text === value ? answer.data : undefined;
  const take = (text: string, from: number) => {
    const bytes = encoder.encode(value);
    const before = decoder.decode(bytes.slice(0, from)) + text;
    onChange(before + value.slice(at));
    setAt(before.length);
    field.current?.focus();
  };
  return (
    <div className="clause-field">
      <Input.TextArea
        ref={(r) => {
          field.current = r?.resizableTextArea?.textArea ?? null;
        }}
        aria-label={label}
        className="clause"
        autoSize={{ minRows: 1, maxRows: 6 }}
        spellCheck={false}
        status={value.trim() !== "" && current?.mistake ? "error" : undefined}
        value={value}
        onChange={(e) => {
          onChange(e.target.value);
          setAt(e.target.selectionStart);
        }}
        onSelect={(e) => setAt(e.currentTarget.selectionStart)}
      />
      {value.trim() !== "" && current?.mistake && (
        <div role="alert" className="clause-mistake">
          {current.mistake.says}
        </div>
      )}
      {current?.completions && current.completions.length > 0 && (
        <div className="clause-offers" aria-label="Suggestions">
          {current.completions.slice(0, 8).map((c) => (
            <button type="button" key={c.kind + c.text} title={c.says} onClick={() => take(c.text, c.from)}>
              {c.text}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
