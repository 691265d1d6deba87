// The log of a page: a form for a new entry, and the entries, the first of them on top.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation } from "@tanstack/react-query";
import { Button, Form, Table } from "antd";
import { api, ask, type Page, type Person, type Row } from "../api/client";
import { ColumnField } from "../parts/ColumnField";
import { ProblemNote } from "../parts/ProblemNote";
import { useKeptForm } from "../parts/useKept";
import { CellText } from "../tracker/Cell";

type Props = {
  page: Page;
  names: Map<string, string>;
  people: Person[];
  me?: string; // address of whoever is signed in
  mayEdit: boolean;
  onAdded: () => void;
};

export function LogPanel({ page, names, people, me, mayEdit, onAdded }: Props) {
  const [form] = Form.useForm<Record<string, unknown>>();
  const fields = page.log_form ?? [];
  const person = fields.find((f) => f.column?.type === "person" && !f.column.several)?.name;
  const begin = person && me ? { [person]: me } : {};
  const { restart, onValuesChange } = useKeptForm(form, `entry ${page.pattern_id} ${page.row}`, begin);
  const add = useMutation({
    mutationFn: (values: Record<string, unknown>) => {
      const cells = Object.fromEntries(Object.entries(values).filter(([, v]) => v !== undefined && v !== ""));
      return ask(
        api.POST("/api/v1/trackers/{tracker}/pages/{page}/log", {
          params: { path: { tracker: page.tracker, page: page.row }, query: { pattern: page.pattern_id } },
          body: { cells },
        }),
      );
    },
    onSuccess: () => {
      restart();
      onAdded();
    },
  });
  const writes = mayEdit && fields.every((f) => !f.read_only);
  return (
    <section className="section" aria-label={t`Log`}>
      <h2>
        <Trans>Log</Trans>
      </h2>
      {writes && (
        <Form
          form={form}
          layout="vertical"
          className="page-entry"
          onFinish={(v) => add.mutate(v)}
          onValuesChange={onValuesChange}
        >
          {fields.map((f) => (
            <Form.Item
              key={f.name}
              name={[f.name]}
              label={f.name}
              extra={
                f.column?.default === "today" || f.column?.default === "now" ? t`blank: ${f.column.default}` : undefined
              }
              rules={f.column?.required ? [{ required: true, message: t`${f.name} must not be blank` }] : []}
            >
              {f.column && <ColumnField column={f.column} people={people} choices={f.choices} />}
            </Form.Item>
          ))}
          <Button type="primary" htmlType="submit" loading={add.isPending}>
            {t`Add entry`}
          </Button>
        </Form>
      )}
      {add.isError && <ProblemNote error={add.error} />}
      {page.log.length === 0 ? (
        <p className="quiet">
          <Trans>No entries yet.</Trans>
        </p>
      ) : (
        <Table
          size="small"
          rowKey="id"
          pagination={false}
          dataSource={page.log}
          scroll={{ x: true }}
          columns={fields.map((f) => ({
            title: f.name,
            render: (_, e) =>
              f.column && <CellText row={{ cells: e.cells } as unknown as Row} column={f.column} names={names} />,
          }))}
        />
      )}
      {page.entries > page.log.length && (
        <p className="quiet">
          <Trans>and {plural(page.entries - page.log.length, { one: "# more entry", other: "# more entries" })}</Trans>
        </p>
      )}
    </section>
  );
}
