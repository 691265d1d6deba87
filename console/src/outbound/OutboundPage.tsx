// The files that rules wrote: opened by day, and one day compared with another.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Table } from "antd";
import { useState } from "react";
import { useParams } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { orBlank } from "../parts/text";
import { useMay } from "../parts/may";
import { UploadWorkbook } from "./UploadWorkbook";
import { fileAt } from "./fileAt";
import { Versions } from "./Versions";
import { useWhen } from "../parts/queries";

export default function OutboundPage() {
  const when = useWhen();
  const { tracker = "" } = useParams();
  const may = useMay(tracker);
  const [marked, setMarked] = useState<string[]>([]);
  const files = useQuery({
    queryKey: ["outbound", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/outbound", { params: { path: { tracker } } })),
  });
  const mark = (path: string, is: boolean) =>
    setMarked((before) => (is ? [...before.slice(-1), path] : before.filter((p) => p !== path)));
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Files</Trans>
        </h1>
        <span className="quiet">
          <Trans>what rules and rounds wrote, newest first; mark two to see what is different</Trans>
        </span>
        {may.keep && <UploadWorkbook tracker={tracker} />}
      </header>
      {files.isError && <ProblemNote error={files.error} />}
      {files.data?.length === 0 && (
        <p className="quiet">
          <Trans>No rule has written a file yet. Give a rule the step “write a file”.</Trans>
        </p>
      )}
      {(files.data?.length ?? 0) > 0 && (
        <Table
          size="small"
          rowKey="path"
          pagination={false}
          dataSource={files.data}
          expandable={{
            columnTitle: t`Versions`,
            expandedRowRender: (f) => <Versions tracker={tracker} path={f.path} />,
            expandIcon: ({ expanded, onExpand, record }) => (
              <Button
                type="text"
                size="small"
                aria-expanded={expanded}
                aria-label={t`Earlier versions of ${record.path}`}
                onClick={(e) => onExpand(record, e)}
              >
                {expanded ? "▾" : "▸"}
              </Button>
            ),
          }}
          columns={[
            {
              title: t`Mark`,
              render: (_, f) => (
                <Checkbox
                  checked={marked.includes(f.path)}
                  disabled={f.gone}
                  onChange={(e) => mark(f.path, e.target.checked)}
                  aria-label={t`Mark ${f.path}`}
                />
              ),
            },
            {
              title: t`File`,
              render: (_, f) =>
                f.gone ? (
                  <span className="quiet">
                    <Trans>{f.path}, deleted</Trans>
                  </span>
                ) : (
                  <a href={fileAt(tracker, f.path)}>{f.path}</a>
                ),
            },
            { title: t`Written`, render: (_, f) => when(f.at, tracker) },
            { title: t`By`, dataIndex: "rule" },
            { title: t`Rows`, dataIndex: "rows", align: "right" },
            {
              title: t`Kept`,
              render: (_, f) => (f.keep ? plural(f.keep, { one: "# day", other: "# days" }) : "forever"),
            },
          ]}
        />
      )}
      {marked.length === 2 && (
        <Compared
          tracker={tracker}
          files={[...marked].sort((a, b) => age(files.data, b) - age(files.data, a)) as [string, string]}
          onClose={() => setMarked([])}
        />
      )}
    </div>
  );
}

// age gives the place of a file in the list, whose first is the newest.
function age(files: { path: string }[] | undefined, path: string): number {
  return files?.findIndex((f) => f.path === path) ?? 0;
}

function Compared(props: { tracker: string; files: [string, string]; onClose: () => void }) {
  const { tracker, onClose } = props;
  const [before, after] = props.files;
  const found = useQuery({
    queryKey: ["compared", tracker, before, after],
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/outbound/compare", {
          params: { path: { tracker }, query: { before, after } },
        }),
      ),
  });
  const d = found.data;
  return (
    <section className="section">
      <h2>
        <Trans>
          From {before} to {after}{" "}
          <Button size="small" onClick={onClose}>
            Close
          </Button>
        </Trans>
      </h2>
      {found.isError && <ProblemNote error={found.error} />}
      {d && (
        <>
          <p>
            <Trans>
              {plural(d.added.length, { one: "# row", other: "# rows" })} added, {d.removed.length} removed,{" "}
              {plural(d.changed.length, { one: "# cell", other: "# cells" })} changed, {d.same} the same; rows matched
              by {d.key}.
            </Trans>
          </p>
          {d.added.length > 0 && (
            <p>
              <Trans>Added: {d.added.join(", ")}</Trans>
            </p>
          )}
          {d.removed.length > 0 && (
            <p>
              <Trans>Removed: {d.removed.join(", ")}</Trans>
            </p>
          )}
          {d.changed.length > 0 && (
            <Table
              size="small"
              pagination={false}
              rowKey={(c) => c.row + c.column}
              dataSource={d.changed}
              columns={[
                { title: t`Row`, dataIndex: "row" },
                { title: t`Column`, dataIndex: "column" },
                { title: t`Before`, render: (_, c) => <span className="quiet">{orBlank(c.before)}</span> },
                { title: t`After`, render: (_, c) => orBlank(c.after) },
              ]}
            />
          )}
        </>
      )}
    </section>
  );
}
