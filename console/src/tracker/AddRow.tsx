// A new row, by form: required columns first.
import { t } from "@lingui/core/macro";
import { Button, Form, Modal } from "antd";
import { useState } from "react";
import { api, ask, type Person, type Tab, type Tracker } from "../api/client";
import { ColumnField } from "../parts/ColumnField";
import { KeepFileContext } from "../parts/FileField";
import { isFixed } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useKeptForm } from "../parts/useKept";
import { keepFileIn } from "./keepFile";
import type { Edits } from "./useEdits";

type Props = {
  tracker: Tracker;
  tab: Tab;
  people: Person[];
  edits: Edits;
  begin?: Record<string, unknown>; // what the fields hold at first
  at?: Spot; // at the end where none is said
  onAdded?: (row: string) => void;
  onClose: () => void;
};

/** Spot is the row, by its id, before or after which a row goes. */
export type Spot = { before: string } | { after: string };

export function AddRow({ tracker, tab, people, edits, begin, at, onAdded, onClose }: Props) {
  const [form] = Form.useForm<Record<string, unknown>>();
  const [error, setError] = useState<unknown>();
  const { isKept, restart, onValuesChange } = useKeptForm(form, `row ${tab.id} ${JSON.stringify(begin ?? {})}`, begin);
  const columns = [...tab.columns]
    .filter((c) => !isFixed(c))
    .sort((a, b) => Number(b.required ?? false) - Number(a.required ?? false));
  const add = async (values: Record<string, unknown>) => {
    const row = Object.fromEntries(Object.entries(values).filter(([, v]) => v !== undefined && v !== ""));
    try {
      const set = await ask(
        api.POST("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
          params: { path: { tracker: tracker.id, tab: tab.id } },
          body: { rows: [row], ...at },
        }),
      );
      restart();
      edits.accept(set);
      onClose();
      const added = set.rows?.find(
        (r) => r.tab_id === tab.id && set.changes.some((c) => c.kind === "add" && c.row === r.id),
      );
      if (added) onAdded?.(added.id);
    } catch (err) {
      setError(err);
    }
  };
  return (
    <Modal
      open
      title={t`Add a row to ${tab.name}`}
      okText={t`Add`}
      onOk={() => form.submit()}
      onCancel={onClose}
      width={520}
    >
      {isKept && (
        <p className="quiet">
          {t`What you began to write is here again.`}{" "}
          <Button size="small" onClick={restart}>
            {t`Start again`}
          </Button>
        </p>
      )}
      {error !== undefined && <ProblemNote error={error} />}
      <KeepFileContext value={keepFileIn(tracker, tab)}>
        <Form
          form={form}
          layout="horizontal"
          labelCol={{ span: 8 }}
          labelAlign="left"
          size="small"
          onValuesChange={onValuesChange}
          onFinish={(v) => void add(v)}
          style={{ marginTop: 12 }}
        >
          {columns.map((c) => (
            <Form.Item
              key={c.id}
              name={[c.name]}
              label={c.name}
              rules={c.required ? [{ required: true, message: t`${c.name} must not be blank` }] : []}
            >
              <ColumnField column={c} people={people} />
            </Form.Item>
          ))}
        </Form>
      </KeepFileContext>
    </Modal>
  );
}
