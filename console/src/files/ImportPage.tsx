// Importing a file: what the service finds in it, over a picture of its sheets,
// put right by hand where need be, seen beforehand, and only then stored.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Select, Tabs, Upload } from "antd";
import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, fileBody, type ChangeSet, type Reading, type Tab, type Tracker } from "../api/client";
import { mayImport, mayOf, useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useSession, useTrackers } from "../parts/queries";
import { Working } from "../parts/Working";
import { useWorking } from "../parts/useWorking";
import { corrections, tableKey, type Said } from "./corrections";
import { familiar } from "./familiar";
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
        <h1>
          <Trans>Import a file</Trans>
        </h1>
        <p>
          <Trans>You need to be an editor of a tracker to import files: ask an admin.</Trans>
        </p>
      </div>
    );
  }
  return (
    <div className="page import">
      <h1>
        <Trans>Import a file</Trans>
      </h1>
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
            ? t`${file.name}: drop another file here, or choose one`
            : t`Drop a workbook or comma-separated file here, or choose one`}
        </Upload.Dragger>
      </div>
      {file && <Found key={`${file.name} ${file.lastModified}`} file={file} />}
    </div>
  );
}

function Found({ file }: { file: File }) {
  const [said, setSaid] = useState<Said>({});
  const trackers = useTrackers();
  const keeps = useMay().keep; // who alone may make a tracker
  const may = (trackers.data ?? []).filter((one) => mayOf(one.role).edit);
  const [chosen, setTracker] = useState<string>();
  const into = may.find((one) => one.id === (chosen ?? (keeps ? "" : may[0]?.id)));
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
  const isLeftOut = (s: number, n: number) => said[tableKey(s, n)]?.leave_out === true;
  const like = useMemo(
    () => (first.data && trackers.data ? familiar(first.data, trackers.data) : undefined),
    [first.data, trackers.data],
  );
  if (first.isLoadingError) return <ProblemNote error={first.error} />;
  if (!first.data || !reading)
    return (
      <p className="quiet">
        <Trans>Reading…</Trans>
      </p>
    );
  return (
    <>
      {again.isError && <ProblemNote error={again.error} />}
      {like && chosen === undefined && (
        <p className="familiar" role="status">
          <Trans>
            This looks like {like.tab.name} of {like.tracker.name}: {like.shared} of its columns are there.{" "}
            <Button
              size="small"
              onClick={() => {
                setTracker(like.tracker.id);
                setSaid({ ...said, [like.table]: { ...said[like.table], tab: like.tab.name, key: like.key } });
              }}
            >
              Import into {like.tab.name}
              {like.key !== undefined && t`, matched by ${like.key}`}
            </Button>
          </Trans>
        </p>
      )}
      <Target file={file} first={first.data} said={said} into={into} may={may} keeps={keeps} onTracker={setTracker} />
      <Tabs
        items={reading.sheets.map((sheet, s) => ({
          key: String(s),
          label: `${sheet.name || file.name}${sheet.hidden ? t` (hidden)` : ""}: ${plural(sheet.tables.length, { one: "# table", other: "# tables" })}`,
          children: (
            <div className="found">
              <Picture sheet={sheet} />
              <div className="found-tables">
                {sheet.tables.length === 0 && (
                  <p className="quiet">
                    <Trans>No table was found on this sheet.</Trans>
                  </p>
                )}
                {sheet.tables.map((table, one) => (
                  <TableForm
                    key={tableKey(s, one)}
                    table={table}
                    name={tabName(file, sheet.name, ...among(sheet.tables.length, one, (n) => isLeftOut(s, n)))}
                    said={said[tableKey(s, one)] ?? {}}
                    tabs={into?.tabs ?? noTabs}
                    onSay={(more) => setSaid({ ...said, [tableKey(s, one)]: more })}
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

const noTabs: Tab[] = [];

// onlyReading leaves out what does not alter how the file is read, so that a
// table that is left out stays in view.
function onlyReading(said: Said): Said {
  return Object.fromEntries(
    Object.entries(said)
      .map(([key, { range, header_rows, columns }]) => [key, { range, header_rows, columns }] as const)
      .filter(
        ([, one]) =>
          one.range !== undefined || one.header_rows !== undefined || Object.keys(one.columns ?? {}).length > 0,
      ),
  );
}

// among gives which table of a sheet one is, and of how many, without those that are left out.
function among(tables: number, one: number, isLeftOut: (n: number) => boolean): [n: number, of: number] {
  const kept = Array.from({ length: tables }, (_, n) => n).filter((n) => n === one || !isLeftOut(n));
  return [kept.indexOf(one), kept.length];
}

const tabName = (file: File, sheet: string, n: number, of: number) => {
  const name = sheet || file.name.replace(/\.[^.]*$/, "");
  return of > 1 ? `${name} ${n + 1}` : name;
};

type Asked = { preview: boolean };
type Conflicts = "file" | "here";

const rowsOf = (reading: Reading, said: Said) =>
  reading.sheets
    .flatMap((sheet, s) => sheet.tables.map((table, one) => (said[tableKey(s, one)]?.leave_out ? 0 : table.rows)))
    .reduce((a, b) => a + b, 0);

// waits tells that an import has left something for a person to look at.
const waits = (set: ChangeSet) =>
  ((set.detail as Imported | undefined)?.tables ?? []).some(
    (one) => one.taken?.held?.length || one.taken?.troubles?.length,
  );

type TargetProps = {
  file: File;
  first: Reading;
  said: Said;
  into: Tracker | undefined; // none: a new one
  may: Tracker[];
  keeps: boolean;
  onTracker: (id: string) => void;
};

function Target({ file, first, said, into: target, may, keeps, onTracker }: TargetProps) {
  const tracker = target?.id;
  const [fresh, setFresh] = useState(file.name.replace(/\.[^.]*$/, ""));
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const [conflicts, setConflicts] = useState<Conflicts>();
  const working = useWorking();
  const send = useMutation({
    mutationFn: ({ preview }: Asked) =>
      working.run((signal) => take(file, tracker, fresh, corrections(first, said), preview, conflicts, signal)),
    onSuccess: async (set, { preview }) => {
      if (preview || waits(set)) return;
      await queries.invalidateQueries();
      void message.success(t`The file has been imported.`);
      const all = await queries.fetchQuery<Tracker[]>({
        queryKey: ["trackers"],
        queryFn: () => ask(api.GET("/api/v1/trackers")),
      });
      const into = all.find((one) => one.id === tracker || (!tracker && one.name === fresh));
      const tab = into?.tabs.find((one) => one.name === (set.detail as Imported | undefined)?.tables?.[0]?.tab);
      // into a new tracker: what could run by itself there is offered
      if (into && !tracker) await navigate(`/t/${into.id}/start`);
      else if (into && tab) await navigate(`/t/${into.id}/${tab.id}`);
    },
  });
  return (
    <section className="target" aria-label={t`Where it goes`}>
      <label>
        <Trans>
          Into
          <Select
            style={{ width: 220 }}
            value={tracker ?? ""}
            onChange={onTracker}
            options={[
              ...(keeps ? [{ value: "", label: t`a new tracker` }] : []),
              ...may.map((one) => ({ value: one.id, label: one.name })),
            ]}
          />
        </Trans>
      </label>
      {!tracker && (
        <label>
          <Trans>
            Name
            <Input style={{ width: 220 }} value={fresh} onChange={(e) => setFresh(e.target.value)} />
          </Trans>
        </label>
      )}
      {tracker && (
        <label>
          <Trans>
            Changed on both sides
            <Select<Conflicts | "">
              style={{ width: 220 }}
              value={conflicts ?? ""}
              onChange={(v) => setConflicts(v || undefined)}
              options={[
                { value: "", label: t`list them, change nothing` },
                { value: "file", label: t`use the file's value` },
                { value: "here", label: t`keep the value here` },
              ]}
            />
          </Trans>
        </label>
      )}
      <Button onClick={() => send.mutate({ preview: true })} loading={send.isPending && send.variables.preview}>
        {t`Preview`}
      </Button>
      <Button
        type="primary"
        onClick={() => send.mutate({ preview: false })}
        loading={send.isPending && !send.variables.preview}
      >
        {t`Import`}
      </Button>
      <Working
        working={working}
        says={
          send.variables?.preview
            ? t`Working out the preview`
            : t`Importing ${plural(rowsOf(first, said), { one: "# row", other: "# rows" })}`
        }
      />
      <div aria-live="polite" className="target-answer">
        {send.isError && !working.stopped && <ProblemNote error={send.error} />}
        {send.isError && working.stopped && (
          <p role="status">
            <Trans>
              Stopped.{" "}
              {send.variables.preview ? t`Nothing was changed.` : t`If it had been saved already, History has it.`}
            </Trans>
          </p>
        )}
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
  signal: AbortSignal,
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
      signal,
      ...fileBody(file),
    }),
  );
}
