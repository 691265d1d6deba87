// A list of changes, before and after.
import { Table } from "antd";
import type { Change } from "../api/client";
import { orBlank, plural, show } from "./text";

const words: Record<Change["kind"], string> = {
  add: "added",
  remove: "removed",
  set: "set",
  note: "note",
  look: "look",
  move: "moved",
  reshape: "setup",
  access: "access",
};

export function Changes({ changes, more = 0 }: { changes: Change[]; more?: number }) {
  return (
    <>
      <Table<Change & { key: number }>
        size="small"
        pagination={changes.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
        dataSource={changes.map((c, key) => ({ ...c, key }))}
        columns={[
          { title: "Row", render: (_, c) => c.label || c.row || show(c.after ?? c.before) },
          { title: "Tab", dataIndex: "tab" },
          { title: "Change", render: (_, c) => (c.column ? `${c.column} ${words[c.kind]}` : words[c.kind]) },
          {
            title: "Before",
            render: (_, c) => <span className="quiet">{c.kind === "add" ? "" : orBlank(c.before)}</span>,
          },
          { title: "After", render: (_, c) => (c.kind === "remove" ? "" : orBlank(c.after)) },
          { title: "Changed by", dataIndex: "because", render: (b: string) => <span className="quiet">{b}</span> },
        ]}
      />
      {more > 0 && <p className="quiet">and {plural(more, "more change")}</p>}
    </>
  );
}
