// A list of changes, before and after.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Table } from "antd";
import type { Change } from "../api/client";
import { orBlank, show } from "./text";

const words: Record<Change["kind"], string> = {
  add: t`added`,
  remove: t`removed`,
  set: t`set`,
  note: t`note`,
  look: t`look`,
  move: t`moved`,
  reshape: t`setup`,
  access: t`access`,
};

export function Changes({ changes, more = 0 }: { changes: Change[]; more?: number }) {
  return (
    <>
      <Table<Change & { key: number }>
        size="small"
        pagination={changes.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
        dataSource={changes.map((c, key) => ({ ...c, key }))}
        columns={[
          { title: t`Row`, render: (_, c) => c.label || c.row || show(c.after ?? c.before) },
          { title: t`Tab`, dataIndex: "tab" },
          { title: t`Change`, render: (_, c) => (c.column ? `${c.column} ${words[c.kind]}` : words[c.kind]) },
          {
            title: t`Before`,
            render: (_, c) => <span className="quiet">{c.kind === "add" ? "" : orBlank(c.before)}</span>,
          },
          { title: t`After`, render: (_, c) => (c.kind === "remove" ? "" : orBlank(c.after)) },
          { title: t`Changed by`, dataIndex: "because", render: (b: string) => <span className="quiet">{b}</span> },
        ]}
      />
      {more > 0 && (
        <p className="quiet">
          <Trans>and {plural(more, { one: "# more change", other: "# more changes" })}</Trans>
        </p>
      )}
    </>
  );
}
