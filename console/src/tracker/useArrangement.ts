// The arrangement of a tab: from the address, or as one left it there.
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo } from "react";
import { useSearchParams } from "react-router";
import type { Definition, Tab, Tracker } from "../api/client";
import { kinds, list } from "../automation/kinds";
import { inAddress, ofView, only, plain, read, write, type Arrangement } from "./arrangement";

const noViews: Definition[] = [];
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

  const go = useCallback(
    (next: (q: URLSearchParams) => URLSearchParams) =>
      setQuery(
        (q) => {
          const to = next(q);
          const kept = only(to).toString();
          if (kept === "") localStorage.removeItem(place(tab.id));
          else localStorage.setItem(place(tab.id), kept);
          return to;
        },
        { replace: true },
      ),
    [setQuery, tab.id],
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
  return { arrangement, arrange, begin, views, view, changed };
}

export type Arranged = ReturnType<typeof useArrangement>;
