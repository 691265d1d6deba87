// Leads anywhere by a few letters: pages, trackers, tabs, what keeps a tracker current, rows.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, problemOf, type Definition, type PageRef, type Tracker } from "../api/client";
import { useSettled } from "../parts/useSettled";
import { automation, type Place } from "./places";
import "./palette.css";

type Props = { trackers: Tracker[]; current?: Tracker; places: Place[]; onClose: () => void };

const rest = 120; // milliseconds without a key before rows are asked for

/** Definitions by the page that shows them. */
const shownAt: Record<string, string> = {
  rule: "rules",
  reminder: "reminders",
  round: "reminders",
  list: "lists",
  sync: "lists",
  dossier: "pages",
  tally: "tallies",
  form: "forms",
};

export default function Palette({ trackers, current, places, onClose }: Props) {
  const [text, setText] = useState("");
  const settled = useSettled(text.trim(), rest);
  const navigate = useNavigate();
  const rows = useQuery({
    queryKey: ["find", settled],
    queryFn: () => ask(api.GET("/api/v1/find", { params: { query: { text: settled } } })),
    enabled: settled.length > 1,
  });
  const parts = useQuery({
    queryKey: ["palette", current?.id],
    queryFn: () => definitionsOf(current?.id ?? ""),
    enabled: current !== undefined,
  });
  const go = (to: string) => () => {
    onClose();
    void navigate(to);
  };
  const pageAt = (p: PageRef) => `/t/${p.tracker}/pages/${p.pattern_id}/${p.row}`;
  const titled = useMutation({
    mutationFn: (title: string) => ask(api.GET("/api/v1/pages", { params: { query: { title } } })),
    onSuccess: (found) => {
      if (found.length === 1 && found[0]) go(pageAt(found[0]))();
    },
  });
  return (
    <Command.Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      label={t`Go to`}
      className="palette"
      overlayClassName="palette-ground"
      loop
    >
      <Command.Input
        value={text}
        onValueChange={(typed) => {
          setText(typed);
          titled.reset();
        }}
        placeholder={t`Go to a page, tab, rule or row`}
        aria-label={t`Go to`}
      />
      {titled.isError && (
        <p role="status" className="palette-says late">
          {problemOf(titled.error).detail}
        </p>
      )}
      <Command.List>
        <Command.Empty>{rows.isFetching ? t`Searching…` : t`Nothing found.`}</Command.Empty>
        {titled.data && titled.data.length > 1 && (
          <Command.Group heading={t`${titled.data.length} pages are called ${text.trim()}`} forceMount>
            {titled.data.map((p) => (
              <Command.Item
                key={p.pattern_id + p.row}
                forceMount
                value={`${text} ${p.pattern_id} ${p.row}`}
                onSelect={go(pageAt(p))}
              >
                {p.pattern}, {p.archived ? t`archived` : t`row in ${p.in ?? ""}`} <span className="quiet">{p.row}</span>
              </Command.Item>
            ))}
          </Command.Group>
        )}
        <Command.Group heading={t`Workspace`}>
          {places.map((p) => (
            <Command.Item key={p.to} value={`workspace ${p.name}`} onSelect={go(p.to)}>
              {p.name}
            </Command.Item>
          ))}
        </Command.Group>
        {trackers.map((one) => (
          <Command.Group key={one.id} heading={one.name}>
            {one.tabs.map((tab) => (
              <Command.Item
                key={tab.id}
                value={`${tab.name} ${one.name} ${tab.id}`}
                onSelect={go(`/t/${one.id}/${tab.id}`)}
              >
                {tab.name}{" "}
                <span className="quiet">
                  <Trans>tab</Trans>
                </span>
              </Command.Item>
            ))}
            {automation.map((a) => (
              <Command.Item key={a.at} value={`${a.name} ${one.name}`} onSelect={go(`/t/${one.id}/${a.at}`)}>
                {a.name}
              </Command.Item>
            ))}
          </Command.Group>
        ))}
        {current && parts.data && parts.data.length > 0 && (
          <Command.Group heading={t`Set up in ${current.name}`}>
            {parts.data.map((d) => (
              <Command.Item
                key={d.id}
                value={`${d.name} ${d.kind} ${d.id}`}
                onSelect={go(`/t/${current.id}/${shownAt[d.kind] ?? "rules"}${d.kind === "rule" ? `/${d.id}` : ""}`)}
              >
                {d.name} <span className="quiet">{d.kind}</span>
              </Command.Item>
            ))}
          </Command.Group>
        )}
        {rows.data && rows.data.length > 0 && (
          <Command.Group heading={t`Rows`} forceMount>
            {rows.data.map((r) => (
              <Command.Item
                key={r.id}
                forceMount
                value={`${text} ${r.label} ${r.id}`}
                onSelect={go(`/t/${r.tracker_id}/${r.tab_id}?row=${r.id}`)}
              >
                {r.label}{" "}
                <span className="quiet">
                  {r.tab}, {r.tracker}
                </span>
              </Command.Item>
            ))}
          </Command.Group>
        )}
        {text.trim().length > 1 && (
          <Command.Item
            forceMount
            value={`${text} the page of that title`}
            keywords={[text]}
            onSelect={() => titled.mutate(text.trim())}
          >
            <Trans>Open the page of the title “{text.trim()}”</Trans>
          </Command.Item>
        )}
      </Command.List>
    </Command.Dialog>
  );
}

async function definitionsOf(tracker: string): Promise<Definition[]> {
  const params = { path: { tracker } };
  const all = await Promise.all([
    ask(api.GET("/api/v1/trackers/{tracker}/rules", { params })),
    ask(api.GET("/api/v1/trackers/{tracker}/reminders", { params })),
    ask(api.GET("/api/v1/trackers/{tracker}/rounds", { params })),
    ask(api.GET("/api/v1/trackers/{tracker}/syncs", { params })),
    ask(api.GET("/api/v1/trackers/{tracker}/dossiers", { params })),
    ask(api.GET("/api/v1/trackers/{tracker}/tallies", { params })),
  ]);
  return all.flat();
}
