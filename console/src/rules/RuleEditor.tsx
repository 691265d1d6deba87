// A rule as text, as the setup file writes it: checked by the service while one
// types, with what saving would change, and saved only when it reads.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Alert, Input, Modal } from "antd";
import { useEffect, useState } from "react";
import { parse, stringify, YAMLParseError } from "yaml";
import { api, ask, ProblemError, type ChangeSet, type Definition } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";

type Props = { tracker: string; rule?: Definition; onClose: () => void };

const blank = `name: New rule
wake: { edit: [Stage] }
where: Stage is not blank
steps:
  - set: { Remarks: "" }
`;

const rest = 350; // milliseconds without a key before the text is checked

export function RuleEditor({ tracker, rule, onClose }: Props) {
  const [text, setText] = useState(() => (rule ? stringify(rule.body, { lineWidth: 0 }) : blank));
  const [checked, setChecked] = useState<{ text: string; set?: ChangeSet; error?: unknown }>();
  const queries = useQueryClient();
  useEffect(() => {
    const timer = window.setTimeout(() => {
      save(tracker, rule, text, true)
        .then((set) => setChecked({ text, set }))
        .catch((error: unknown) => setChecked({ text, error }));
    }, rest);
    return () => window.clearTimeout(timer);
  }, [tracker, rule, text]);
  const keep = useMutation({
    mutationFn: () => save(tracker, rule, text, false),
    onSuccess: () => {
      void queries.invalidateQueries();
      onClose();
    },
  });
  const current = checked?.text === text ? checked : undefined;
  return (
    <Modal
      open
      width={860}
      title={rule ? `The rule ${rule.name}` : "A new rule"}
      okText="Keep it"
      okButtonProps={{ disabled: !current?.set || current.set.changes.length === 0, loading: keep.isPending }}
      onOk={() => keep.mutate()}
      onCancel={onClose}
    >
      <Input.TextArea
        aria-label="The rule as text"
        autoSize={{ minRows: 10, maxRows: 20 }}
        spellCheck={false}
        style={{ fontFamily: "ui-monospace, 'DejaVu Sans Mono', monospace", fontSize: 13 }}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <div style={{ marginTop: 12, minHeight: 90 }} aria-live="polite">
        {keep.isError && <ProblemNote error={keep.error} />}
        {current?.error !== undefined && <ProblemNote error={current.error} />}
        {current?.set && <WhatChanges set={current.set} />}
      </div>
    </Modal>
  );
}

function WhatChanges({ set }: { set: ChangeSet }) {
  const lines = set.changes.flatMap((c) => c.differences ?? []);
  return (
    <>
      {lines.length === 0 ? <p className="quiet">It reads, and is as it was.</p> : <p>It reads. Keeping it changes:</p>}
      {lines.length > 0 && <pre style={{ margin: 0 }}>{lines.join("\n")}</pre>}
      {set.warnings?.map((w) => (
        <Alert key={w} type="warning" showIcon title="Careful" description={w} style={{ marginTop: 8 }} />
      ))}
    </>
  );
}

async function save(tracker: string, rule: Definition | undefined, text: string, preview: boolean): Promise<ChangeSet> {
  const query = preview ? { preview: "yes" as const } : {};
  const body = read(text);
  if (rule)
    return ask(
      api.PUT("/api/v1/trackers/{tracker}/rules/{definition}", {
        params: { path: { tracker, definition: rule.id }, query },
        body,
      }),
    );
  return ask(api.POST("/api/v1/trackers/{tracker}/rules", { params: { path: { tracker }, query }, body }));
}

// read takes the text apart; what is no YAML is told like the service's problems.
function read(text: string): Record<string, unknown> {
  try {
    const doc: unknown = parse(text);
    if (doc !== null && typeof doc === "object" && !Array.isArray(doc)) return doc as Record<string, unknown>;
  } catch (err) {
    if (err instanceof YAMLParseError) throw notText(err.message);
    throw err;
  }
  throw notText("A rule is written as keys and values, such as name: Move loans.");
}

function notText(detail: string): ProblemError {
  return new ProblemError({ type: "urn:kavlo:setup", title: "The text cannot be read", status: 422, detail });
}
