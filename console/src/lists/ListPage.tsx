// One list or sync, edited as a sentence, beside a look at what the list holds.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { api, ask, type ListSample } from "../api/client";
import type { Beside } from "../automation/DefinitionEditor";
import { EditPage } from "../automation/EditPage";
import { kinds, list, type Body } from "../automation/kinds";
import { ProblemNote } from "../parts/ProblemNote";
import { fields, text } from "../rules/body";
import { cursorAs, listLacks, syncLacks, withFrom } from "./body";
import { listBeginnings, listOf, newSync } from "./beginnings";
import { Sides } from "./Sides";
import { summary } from "./summary";
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
  const { tracker = "", kind = "list", definition = "new" } = useParams();
  if (kind === "sync") return <SyncPage tracker={tracker} definition={definition} />;
  return (
    <EditPage
      kind={kinds.list}
      definition={definition}
      begin={(_, from) => listBeginnings().find((b) => b.id === from)?.body ?? { name: "", from: { http: "" } }}
      missing={listLacks}
      beside={(parts, context) => <Look tracker={context.tracker.id} {...parts} />}
    >
      {(parts) => <ListSentence {...parts} />}
    </EditPage>
  );
}

function SyncPage({ tracker, definition }: { tracker: string; definition: string }) {
  const lists = useQuery({ queryKey: ["lists", tracker], queryFn: () => list(kinds.list, tracker) });
  const [query] = useSearchParams();
  const about = definition === "new" ? listOf(query.get("from") ?? "", lists.data ?? []) : undefined;
  const sample = useSample(tracker, about);
  if (!lists.data || (about && sample.isPending))
    return <div className="page quiet">{about ? <Trans>Asking the list…</Trans> : <Trans>Loading…</Trans>}</div>;
  return (
    <EditPage
      kind={kinds.sync}
      definition={definition}
      begin={(here, from) => newSync(here, lists.data, from, sample.data)}
      missing={syncLacks}
      beside={({ body, replaces }, context) => (
        <BothSides tracker={context.tracker.id} body={body} replaces={replaces} />
      )}
    >
      {(parts) => (
        <Paired tracker={tracker} lists={lists.data} called={text(parts.body.list)}>
          {(sample) => <SyncSentence {...parts} lists={lists.data} sample={sample} />}
        </Paired>
      )}
    </EditPage>
  );
}

function BothSides({ tracker, body, replaces }: { tracker: string; body: Body; replaces?: string }) {
  const [open, setOpen] = useState(false);
  const preview = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/v1/trackers/{tracker}/try/sync/preview", {
          params: { path: { tracker } },
          body: { body, replaces },
        }),
      ),
  });
  return (
    <>
      <Button
        onClick={() => {
          setOpen(true);
          preview.mutate();
        }}
      >
        {t`Preview both sides`}
      </Button>
      <Modal open={open} title={t`What it would change now`} width={980} footer={null} onCancel={() => setOpen(false)}>
        {preview.isPending && (
          <p className="quiet">
            <Trans>Asking the list…</Trans>
          </p>
        )}
        {preview.isError && <ProblemNote error={preview.error} />}
        {preview.data && (
          <>
            <p>{preview.data.sync && summary(preview.data.sync)}</p>
            <Sides set={preview.data} />
            <p className="quiet">
              <Trans>Preview only. No changes made.</Trans>
            </p>
          </>
        )}
      </Modal>
    </>
  );
}

// useSample gives some records of a list, as they are now.
function useSample(tracker: string, one?: { id: string; body: Body }) {
  return useQuery({
    queryKey: ["sample", tracker, one?.id],
    queryFn: () => look(tracker, one?.body ?? {}, one?.id),
    enabled: one !== undefined,
    staleTime: 60_000,
    retry: false, // a list that does not answer is told of beside the sentence
  });
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
  const sample = useSample(tracker, one);
  return (
    <>
      {children(sample.data)}
      {sample.isError && <ProblemNote error={sample.error} />}
    </>
  );
}

function Look({ tracker, body, setBody, replaces }: Beside & { tracker: string }) {
  const [found, setFound] = useState<ListSample>(); // stays while it is looked again
  const sample = useMutation({ mutationFn: (body: Body) => look(tracker, body, replaces), onSuccess: setFound });
  const use = (more: Record<string, unknown>) => {
    const to = withFrom(body, more);
    setBody(to);
    sample.mutate(to);
  };
  return (
    <>
      <Button loading={sample.isPending} onClick={() => sample.mutate(body)}>
        {t`Look at the list`}
      </Button>
      {sample.isError && <ProblemNote error={sample.error} />}
      {found && (
        <>
          <h2>
            {plural(found.total, { one: "# record", other: "# records" })}
            {found.pages !== undefined && t` on ${plural(found.pages, { one: "# page", other: "# pages" })}`}
          </h2>
          {found.offers && (
            <p>
              <Trans>
                The list has more pages.{" "}
                <Button
                  size="small"
                  onClick={() =>
                    use({
                      next: found.offers === "link" ? "link" : { cursor: found.cursor, as: cursorAs(found.cursor) },
                    })
                  }
                >
                  Fetch every page
                </Button>
              </Trans>
            </p>
          )}
          {found.items && (
            <p>
              <Trans>
                They were found at <code>{found.items}</code>.{" "}
                <Button size="small" onClick={() => use({ items: found.items })}>
                  Take records from there
                </Button>
              </Trans>
            </p>
          )}
          {found.id && text(fields(body.from).id) !== found.id && (
            <p>
              <Trans>
                <code>{found.id}</code> tells them apart.{" "}
                <Button size="small" onClick={() => use({ id: found.id })}>
                  Use as the id
                </Button>
              </Trans>
            </p>
          )}
          <ul className="plain">
            {found.fields.map((f) => (
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
