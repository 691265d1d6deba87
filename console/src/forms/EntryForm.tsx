// An entry form: the fields that it asks for, sent whole or not at all. What is typed is
// kept until it has arrived.
import { t } from "@lingui/core/macro";
import { useMutation } from "@tanstack/react-query";
import { Button, Form } from "antd";
import { useState } from "react";
import { problemOf, type EntryForm as Shown, type Person } from "../api/client";
import { ColumnField } from "../parts/ColumnField";
import { KeepFileContext, type KeepFile } from "../parts/FileField";
import { ProblemNote } from "../parts/ProblemNote";
import { useKeptForm } from "../parts/useKept";
import "./forms.css";

// newKey gives a text that nobody has had; it works on pages without encryption too.
const newKey = () =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (n) => n.toString(16).padStart(2, "0")).join("");

type Props = {
  form: Shown;
  people: Person[];
  keep: string; // under what a half-written entry is kept
  keepFile: KeepFile;
  send: (cells: Record<string, unknown>, key: string) => Promise<{ says: string }>;
};

export function EntryForm({ form: shown, people, keep, keepFile, send }: Props) {
  const [form] = Form.useForm<Record<string, unknown>>();
  const [key, setKey] = useState(() => newKey()); // the same until it has arrived
  const { restart, onValuesChange } = useKeptForm(form, keep);
  const fill = useMutation({
    mutationFn: (values: Record<string, unknown>) =>
      send(
        Object.fromEntries(Object.entries(values).filter(([, v]) => v !== undefined && v !== "" && v !== null)),
        key,
      ),
    onSuccess: () => {
      restart();
      setKey(newKey());
    },
    onError: (err) => {
      const { field, detail } = problemOf(err);
      if (field) form.setFields([{ name: [field], errors: [detail] }]);
    },
  });
  if (fill.isSuccess) {
    return (
      <div role="status" className="entry-thanks">
        <p>{fill.data.says}</p>
        <Button onClick={() => fill.reset()}>{t`Fill in another`}</Button>
      </div>
    );
  }
  return (
    <Form
      form={form}
      layout="vertical"
      className="entry-form"
      onFinish={(v) => fill.mutate(v)}
      onValuesChange={onValuesChange}
    >
      {shown.says && <p>{shown.says}</p>}
      <KeepFileContext value={keepFile}>
        {shown.fields.map((f) => (
          <Form.Item
            key={f.column.id}
            name={[f.column.name]}
            label={f.column.name}
            extra={f.help}
            rules={f.required ? [{ required: true, message: t`${f.column.name} must be filled in` }] : []}
          >
            <ColumnField column={f.column} people={people} />
          </Form.Item>
        ))}
      </KeepFileContext>
      {fill.isError && !problemOf(fill.error).field && <ProblemNote error={fill.error} />}
      <Button type="primary" htmlType="submit" loading={fill.isPending}>
        {t`Send`}
      </Button>
    </Form>
  );
}
