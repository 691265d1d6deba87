// A definition, or a part of one, as the setup file writes it, for what has no controls of its own.
import { t } from "@lingui/core/macro";
import { Input } from "antd";
import { useState } from "react";
import { parse, stringify } from "yaml";

type Value = Record<string, unknown>;
type Props = { value: Value; onChange: (value: Value) => void; label: string; rows?: number };

export function DefinitionText({ value, onChange, label, rows = 3 }: Props) {
  const [typed, setTyped] = useState<{ text: string; of: string }>();
  const written = stringify(value, { lineWidth: 0 });
  const text = typed?.of === JSON.stringify(value) ? typed.text : written;
  const [problem, setProblem] = useState<string>();
  const change = (to: string) => {
    try {
      const doc: unknown = parse(to);
      if (doc !== null && typeof doc === "object" && !Array.isArray(doc)) {
        setProblem(undefined);
        setTyped({ text: to, of: JSON.stringify(doc) });
        onChange(doc as Value);
        return;
      }
      setProblem(t`Write keys and values, such as name: Move loans.`);
    } catch (err) {
      setProblem(err instanceof Error ? err.message : String(err));
    }
    setTyped({ text: to, of: JSON.stringify(value) });
  };
  return (
    <div className="step-text">
      <Input.TextArea
        aria-label={label}
        className="clause"
        autoSize={{ minRows: rows, maxRows: 24 }}
        spellCheck={false}
        status={problem ? "error" : undefined}
        value={text}
        onChange={(e) => change(e.target.value)}
      />
      {problem && (
        <pre role="alert" className="clause-mistake">
          {problem}
        </pre>
      )}
    </div>
  );
}
