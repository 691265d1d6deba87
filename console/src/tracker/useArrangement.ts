// The arrangement of a tab: from the address, or as one left it there.
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef } from "react";
import { useSearchParams } from "react-router";
import type { Definition, Tab, Tracker } from "../api/client";
import { kinds, list } from "../automation/kinds";
import { inAddress, ofView, only, plain, read, write, type Arrangement } from "./arrangement";

const noViews: Definition[] = [];
const follows = 1000; // milliseconds that an address may take to follow
const place = (tab: string) => `kavlo arranged ${tab}`;

/** useViews gives the named views of a tab. */
export function useViews(tracker: string, tab: Tab): Definition[] {
  const views = useQuery({ queryKey: ["views", tracker], queryFn: () => list(kinds.view, tracker) });
  return useMemo(
    () => (views.data ?? noViews).filter((v) => (v.body as { tab?: string }).tab === tab.name),
    [views.data, tab.name],
  );
}

export function useArrangement(tracker: Tracker, tab: Tab) {
  const [query, setQuery] = useSearchParams();
  const views = useViews(tracker.id, tab);
  const view = views.find((v) => v.name === query.get("view"));
  const from = useMemo(() => ofView(view, tab.columns), [view, tab.columns]);
  const text = only(query).toString();
  const arrangement = useMemo(() => read(new URLSearchParams(text), from, tab.columns), [text, from, tab.columns]);

  // Whoever comes by an address that says nothing finds the tab as they left it. A row that is
  // asked for must be seen.
  const kept = inAddress(query) || query.has("row") ? null : localStorage.getItem(place(tab.id));
  useEffect(() => {
    if (kept) setQuery((q) => new URLSearchParams([...q, ...new URLSearchParams(kept)]), { replace: true });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, as one comes
  }, [tab.id]);

  // The address follows a moment later; what is arranged meanwhile goes on from what it will be.
  const ahead = useRef<{ query: URLSearchParams; at: number }>(undefined);
  useEffect(() => {
    if (ahead.current?.query.toString() === query.toString()) ahead.current = undefined;
  }, [query]);
  useEffect(() => () => void (ahead.current = undefined), [tab.id]);
  const go = useCallback(
    (next: (q: URLSearchParams) => URLSearchParams) => {
      const since = performance.now() - (ahead.current?.at ?? -follows);
      const to = next(ahead.current && since < follows ? ahead.current.query : query);
      ahead.current = { query: to, at: performance.now() };
      const kept = only(to).toString();
      if (kept === "") localStorage.removeItem(place(tab.id));
      else localStorage.setItem(place(tab.id), kept);
      setQuery(to, { replace: true });
    },
    [query, setQuery, tab.id],
  );
  /** arrange changes a part of the arrangement. */
  const arrange = useCallback(
    (part: Partial<Arrangement>) =>
      go((q) => write(q, { ...read(q, from, tab.columns), ...part }, from, q.get("view") ?? "")),
    [go, from, tab.columns],
  );
  /** begin goes to a named view as it is; to all rows and columns without one. */
  const begin = useCallback((name: string) => go((q) => write(q, plain, plain, name)), [go]);
  const changed = view !== undefined && text !== only(write(new URLSearchParams(), from, from, view.name)).toString();
  return useMemo(
    () => ({ arrangement, arrange, begin, views, view, changed }),
    [arrangement, arrange, begin, views, view, changed],
  );
}

export type Arranged = ReturnType<typeof useArrangement>;
