// A new row, by form: required columns first.
import { Checkbox, Form, Input, Modal, Select } from "antd";
import { useState } from "react";
import { api, ask, type Column, type Person, type Tab, type Tracker } from "../api/client";
import { isFixed } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import type { Edits } from "./useEdits";

type Props = { tracker: Tracker; tab: Tab; people: Person[]; edits: Edits; onClose: () => void };

export function AddRow({ tracker, tab, people, edits, onClose }: Props) {
  const [form] = Form.useForm<Record<string, unknown>>();
  const [error, setError] = useState<unknown>();
  const columns = [...tab.columns]
    .filter((c) => !isFixed(c))
    .sort((a, b) => Number(b.required ?? false) - Number(a.required ?? false));
  const add = async (values: Record<string, unknown>) => {
    const row = Object.fromEntries(Object.entries(values).filter(([, v]) => v !== undefined && v !== ""));
    try {
      edits.accept(
        await ask(
          api.POST("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
            params: { path: { tracker: tracker.id, tab: tab.id } },
            body: { rows: [row] },
          }),
        ),
      );
      onClose();
    } catch (err) {
      setError(err);
    }
  };
  return (
    <Modal
      open
      title={`Add a row to ${tab.name}`}
      okText="Add"
      onOk={() => form.submit()}
      onCancel={onClose}
      width={520}
    >
      {error !== undefined && <ProblemNote error={error} />}
      <Form
        form={form}
        layout="horizontal"
        labelCol={{ span: 8 }}
        labelAlign="left"
        size="small"
        onFinish={(v) => void add(v)}
        style={{ marginTop: 12 }}
      >
        {columns.map((c) => (
          <Form.Item
            key={c.id}
            name={[c.name]}
            label={c.name}
            rules={c.required ? [{ required: true, message: `${c.name} must not be blank` }] : []}
            valuePropName={c.type === "checkbox" ? "checked" : "value"}
          >
            {field(c, people)}
          </Form.Item>
        ))}
      </Form>
    </Modal>
  );
}

function field(c: Column, people: Person[]) {
  switch (c.type) {
    case "checkbox":
      return <Checkbox />;
    case "choice":
      return (
        <Select
          allowClear
          mode={c.several ? "multiple" : undefined}
          options={c.options?.map((o) => ({ value: o.name, label: o.name }))}
        />
      );
    case "person":
      return (
        <Select
          allowClear
          showSearch
          mode={c.several ? "multiple" : undefined}
          options={people.map((p) => ({ value: p.address, label: p.name }))}
        />
      );
    case "date":
      return <Input placeholder="such as 2026-03-31" />;
  }
  return c.type === "text" ? <Input.TextArea autoSize={{ minRows: 1, maxRows: 6 }} /> : <Input />;
}
