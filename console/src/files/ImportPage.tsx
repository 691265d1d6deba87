// Importing a file: what the service finds in it, over a picture of its sheets,
// put right by hand where need be, seen beforehand, and only then stored.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Select, Tabs, Upload } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, fileBody, type ChangeSet, type Reading, type Tracker } from "../api/client";
import { mayImport, mayOf, useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useSession, useTrackers } from "../parts/queries";
import { plural } from "../parts/text";
import { corrections, tableKey, type Said } from "./corrections";
import { Outcome, type Imported } from "./Outcome";
import { Picture } from "./Picture";
import { TableForm } from "./TableForm";
import "./files.css";

export default function ImportPage() {
  const [file, setFile] = useState<File>();
  const session = useSession();
  const trackers = useTrackers();
  if (session.data && trackers.data && !mayImport(session.data.person.access, trackers.data)) {
    return (
      <div className="page import">
        <h1>Import a file</h1>
        <p>You need to be an editor of a tracker to import files: ask a keeper.</p>
      </div>
    );
  }
  return (
    <div className="page import">
      <h1>Import a file</h1>
      <div className="drop">
        <Upload.Dragger
          accept=".xlsx,.csv,.tsv,.txt"
          maxCount={1}
          showUploadList={false}
          beforeUpload={(f) => {
            setFile(f);
            return false;
          }}
        >
          {file
            ? `${file.name}: drop another file here, or choose one`
            : "Drop a workbook or comma-separated file here, or choose one"}
        </Upload.Dragger>
      </div>
      {file && <Found key={`${file.name} ${file.lastModified}`} file={file} />}
    </div>
  );
}

function Found({ file }: { file: File }) {
  const [said, setSaid] = useState<Said>({});
  const first = useQuery({
    queryKey: ["reading", file.name, file.lastModified],
    queryFn: () => read(file),
    staleTime: Infinity,
  });
  const told = first.data && corrections(first.data, { ...onlyReading(said) });
  const again = useQuery({
    queryKey: ["reading", file.name, file.lastModified, told],
    queryFn: () => read(file, told),
    enabled: told !== undefined,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  const reading = told === undefined ? first.data : (again.data ?? first.data);
  if (first.isError) return <ProblemNote error={first.error} />;
  if (!first.data || !reading) return <p className="quiet">Reading…</p>;
  return (
    <>
      {again.isError && <ProblemNote error={again.error} />}
      <Target file={file} first={first.data} said={said} />
      <Tabs
        items={reading.sheets.map((sheet, s) => ({
          key: String(s),
          label: `${sheet.name || file.name}${sheet.hidden ? " (hidden)" : ""}: ${plural(sheet.tables.length, "table")}`,
          children: (
            <div className="found">
              <Picture sheet={sheet} />
              <div className="found-tables">
                {sheet.tables.length === 0 && <p className="quiet">No table was found on this sheet.</p>}
                {sheet.tables.map((table, t) => (
                  <TableForm
                    key={tableKey(s, t)}
                    table={table}
                    name={tabName(file, sheet.name, t, sheet.tables.length)}
                    said={said[tableKey(s, t)] ?? {}}
                    tabs={[]}
                    onSay={(more) => setSaid({ ...said, [tableKey(s, t)]: more })}
                  />
                ))}
              </div>
            </div>
          ),
        }))}
      />
    </>
  );
}

// onlyReading leaves out what does not alter how the file is read, so that a
// table that is left out stays in view.
function onlyReading(said: Said): Said {
  return Object.fromEntries(
    Object.entries(said)
      .map(([key, { range, header_rows, columns }]) => [key, { range, header_rows, columns }] as const)
      .filter(
        ([, t]) => t.range !== undefined || t.header_rows !== undefined || Object.keys(t.columns ?? {}).length > 0,
      ),
  );
}

const tabName = (file: File, sheet: string, n: number, of: number) => {
  const name = sheet || file.name.replace(/\.[^.]*$/, "");
  return of > 1 ? `${name} ${n + 1}` : name;
};

type Asked = { preview: boolean };
type Conflicts = "file" | "here";

// waits tells that an import has left something for a person to look at.
const waits = (set: ChangeSet) =>
  ((set.detail as Imported | undefined)?.tables ?? []).some((t) => t.taken?.held?.length || t.taken?.troubles?.length);

function Target({ file, first, said }: { file: File; first: Reading; said: Said }) {
  const trackers = useTrackers();
  const keeps = useMay().keep; // who alone may make a tracker
  const into = (trackers.data ?? []).filter((t) => mayOf(t.role).edit);
  const [chosen, setTracker] = useState<string>();
  const tracker = chosen ?? (keeps ? undefined : into[0]?.id);
  const [fresh, setFresh] = useState(file.name.replace(/\.[^.]*$/, ""));
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const [conflicts, setConflicts] = useState<Conflicts>();
  const send = useMutation({
    mutationFn: ({ preview }: Asked) => take(file, tracker, fresh, corrections(first, said), preview, conflicts),
    onSuccess: async (set, { preview }) => {
      if (preview || waits(set)) return;
      await queries.invalidateQueries();
      void message.success("The file has been imported.");
      const all = await queries.fetchQuery<Tracker[]>({
        queryKey: ["trackers"],
        queryFn: () => ask(api.GET("/api/v1/trackers")),
      });
      const into = all.find((t) => t.id === tracker || (!tracker && t.name === fresh));
      const tab = into?.tabs.find((t) => t.name === (set.detail as Imported | undefined)?.tables?.[0]?.tab);
      // into a new tracker: what could run by itself there is offered
      if (into && !tracker) await navigate(`/t/${into.id}/start`);
      else if (into && tab) await navigate(`/t/${into.id}/${tab.id}`);
    },
  });
  return (
    <section className="target" aria-label="Where it goes">
      <label>
        Into
        <Select
          style={{ width: 220 }}
          value={tracker ?? ""}
          onChange={(v) => setTracker(v || undefined)}
          options={[
            ...(keeps ? [{ value: "", label: "a new tracker" }] : []),
            ...into.map((t) => ({ value: t.id, label: t.name })),
          ]}
        />
      </label>
      {!tracker && (
        <label>
          Name
          <Input style={{ width: 220 }} value={fresh} onChange={(e) => setFresh(e.target.value)} />
        </label>
      )}
      {tracker && (
        <label>
          Changed on both sides
          <Select<Conflicts | "">
            style={{ width: 220 }}
            value={conflicts ?? ""}
            onChange={(v) => setConflicts(v || undefined)}
            options={[
              { value: "", label: "list them, change nothing" },
              { value: "file", label: "use the file's value" },
              { value: "here", label: "keep the value here" },
            ]}
          />
        </label>
      )}
      <Button onClick={() => send.mutate({ preview: true })} loading={send.isPending && send.variables.preview}>
        Preview
      </Button>
      <Button
        type="primary"
        onClick={() => send.mutate({ preview: false })}
        loading={send.isPending && !send.variables.preview}
      >
        Import
      </Button>
      <div aria-live="polite" className="target-answer">
        {send.isError && <ProblemNote error={send.error} />}
        {send.data && <Outcome set={send.data} preview={send.variables.preview} />}
      </div>
    </section>
  );
}

function read(file: File, told?: string): Promise<Reading> {
  const query = { name: file.name, ...(told ? { corrections: told } : {}) };
  return ask(api.POST("/api/v1/readings", { params: { query }, ...fileBody(file) }));
}

function take(
  file: File,
  tracker: string | undefined,
  fresh: string,
  told: string | undefined,
  preview: boolean,
  conflicts: Conflicts | undefined,
): Promise<ChangeSet> {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const query = {
    name: file.name,
    ...(told ? { corrections: told } : {}),
    ...(tracker ? {} : { new: "yes" as const, zone }),
    ...(preview ? { preview: "yes" as const } : {}),
    ...(conflicts ? { conflicts } : {}),
  };
  return ask(
    api.POST("/api/v1/trackers/{tracker}/imports", {
      params: { path: { tracker: tracker ?? fresh }, query },
      ...fileBody(file),
    }),
  );
}
