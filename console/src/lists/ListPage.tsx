// One list or sync, edited as a sentence, beside a look at what the list holds.
import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useParams } from "react-router";
import { api, ask, type ListSample } from "../api/client";
import { DefinitionEditor } from "../automation/DefinitionEditor";
import { get, kinds, list, type Body } from "../automation/kinds";
import { ProblemNote } from "../parts/ProblemNote";
import { useTrackers } from "../parts/queries";
import { plural } from "../parts/text";
import { text } from "../rules/body";
import { listLacks, syncLacks } from "./body";
import { ListSentence } from "./ListSentence";
import { SyncSentence } from "./SyncSentence";

const look = (tracker: string, body: Body, replaces?: string): Promise<ListSample> =>
  ask(
    api.POST("/api/v1/trackers/{tracker}/try/list/records", {
      params: { path: { tracker } },
      body: { body, replaces },
    }),
  );

export default function ListPage() {
  const { tracker: name = "", kind: called = "list", definition = "new" } = useParams();
  const kind = called === "sync" ? kinds.sync : kinds.list;
  const trackers = useTrackers();
  const tracker = trackers.data?.find((t) => t.id === name || t.name === name);
  const id = tracker?.id ?? "";
  const saved = useQuery({
    queryKey: [kind.name, id, definition],
    queryFn: () => get(kind, id, definition),
    enabled: tracker !== undefined && definition !== "new",
    staleTime: Infinity, // what one edits is not changed under one's hands: saving asks
  });
  const lists = useQuery({ queryKey: ["lists", id], queryFn: () => list(kinds.list, id), enabled: id !== "" });
  if (saved.isError) {
    return (
      <div className="page">
        <ProblemNote error={saved.error} />
      </div>
    );
  }
  if (!tracker || (definition !== "new" && !saved.data) || !lists.data)
    return <div className="page quiet">Loading…</div>;
  if (kind.name === "list") {
    return (
      <DefinitionEditor
        key={`list ${definition}`}
        kind={kind}
        tracker={tracker}
        saved={saved.data}
        begin={{ name: "", from: { http: "" } }}
        keep="new"
        missing={listLacks}
        beside={({ body, replaces }) => <Look tracker={tracker.id} body={body} replaces={replaces} />}
      >
        {(parts) => <ListSentence {...parts} />}
      </DefinitionEditor>
    );
  }
  return (
    <DefinitionEditor
      key={`sync ${definition}`}
      kind={kind}
      tracker={tracker}
      saved={saved.data}
      begin={{ name: "", list: lists.data[0]?.name ?? "", direction: "in", clock: "daily at 06:00" }}
      keep="new"
      missing={syncLacks}
      beside={() => <p className="quiet">Saved, it can be previewed on both sides before it runs.</p>}
    >
      {(parts) => (
        <Paired tracker={tracker.id} lists={lists.data} called={text(parts.body.list)}>
          {(sample) => <SyncSentence {...parts} tracker={tracker} lists={lists.data} sample={sample} />}
        </Paired>
      )}
    </DefinitionEditor>
  );
}

// Paired fetches what the list of a sync holds, for its fields to be chosen.
function Paired({
  tracker,
  lists,
  called,
  children,
}: {
  tracker: string;
  lists: { id: string; name: string; body: Body }[];
  called: string;
  children: (sample?: ListSample) => React.ReactNode;
}) {
  const one = lists.find((l) => l.name === called);
  const sample = useQuery({
    queryKey: ["sample", tracker, one?.id],
    queryFn: () => look(tracker, one?.body ?? {}, one?.id),
    enabled: one !== undefined,
    staleTime: 60_000,
  });
  return (
    <>
      {children(sample.data)}
      {sample.isError && <ProblemNote error={sample.error} />}
    </>
  );
}

function Look({ tracker, body, replaces }: { tracker: string; body: Body; replaces?: string }) {
  const sample = useMutation({ mutationFn: () => look(tracker, body, replaces) });
  return (
    <>
      <Button loading={sample.isPending} onClick={() => sample.mutate()}>
        Look at the list
      </Button>
      {sample.isError && <ProblemNote error={sample.error} />}
      {sample.data && (
        <>
          <h2>{plural(sample.data.total, "record")}</h2>
          {sample.data.items && (
            <p>
              They were found at <code>{sample.data.items}</code>: write that after “records at”.
            </p>
          )}
          {sample.data.id && (
            <p className="quiet">
              <code>{sample.data.id}</code> tells them apart.
            </p>
          )}
          <ul className="plain">
            {sample.data.fields.map((f) => (
              <li key={f.at}>
                <code>{f.at}</code> <span className="quiet">{f.samples.join(", ")}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
