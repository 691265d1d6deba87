// Getting a tab's rows into the store, and the ids of those that an arrangement chooses, in
// its order.
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, type Row, type Tab } from "../api/client";
import { listen } from "../api/live";
import { paced } from "../parts/paced";
import type { RowStore } from "./rowStore";

const firstRows = 200; // so that something stands there soon
const pageRows = 5000;

// fetchRows loads all rows of a tab: the first of them soon where none are here yet, and
// otherwise all in one go, so that nobody loses their place.
async function fetchRows(store: RowStore, tracker: string, tab: string, signal: AbortSignal) {
  const again = (store.ids(tab)?.length ?? 0) > 0;
  const kept: Row[] = [];
  for (let got = 0; ;) {
    const page = await ask(
      api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
        params: { path: { tracker, tab }, query: { limit: got || again ? pageRows : firstRows, offset: got } },
        signal,
      }),
    );
    if (again) kept.push(...page.rows);
    else store.load(tab, page.rows, got > 0);
    got += page.rows.length;
    if (got < page.total && page.rows.length > 0) continue;
    if (again) store.load(tab, kept);
    return;
  }
}

// useLoaded loads a tab's rows when it is first opened, and again whenever rows may have
// changed without their being told.
export function useLoaded(store: RowStore, tracker: string, tab: string) {
  const loaded = useQuery({
    queryKey: ["rows", tracker, tab],
    queryFn: async ({ signal }) => {
      while (!store.loaded(tab)) {
        const doubts = store.doubts();
        await fetchRows(store, tracker, tab, signal);
        if (doubts === store.doubts()) store.finish(tab); // else they are in doubt again
      }
      return true;
    },
    staleTime: 0,
    refetchOnWindowFocus: false,
  });
  const { refetch, fetchStatus, isError } = loaded;
  const idle = fetchStatus === "idle" && !isError;
  useEffect(() => {
    const look = () => void (store.loaded(tab) || refetch());
    if (idle) look();
    return store.subscribeEvents(look);
  }, [store, tab, refetch, idle]);
  return { error: loaded.error ?? undefined };
}

const mostNamed = 500; // rows that may be asked for by their ids

// useAround keeps those rows current that are in sight, where columns are computed from more
// than their own rows: from other rows, or from what day it is. It gives what is to be told
// which rows are in sight.
export function useAround(store: RowStore, tracker: string, tab: Tab): (ids: string[]) => void {
  const around = tab.columns.some((c) => c.around);
  const sight = useRef<string[]>([]);
  const soon = useRef<() => void>(undefined);
  useEffect(() => {
    if (!around) return;
    const over = new AbortController();
    const look = async () => {
      const behind = store.behind(sight.current).slice(0, mostNamed);
      if (behind.length === 0) return;
      const at = store.at();
      try {
        const page = await ask(
          api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
            params: { path: { tracker, tab: tab.id }, query: { rows: behind.join(","), limit: mostNamed } },
            signal: over.signal,
          }),
        );
        store.refresh(page.rows, at);
      } catch {
        return; // with the next event, or when they are next in sight
      }
    };
    const pace = paced(look);
    soon.current = pace.soon;
    const stop = store.subscribeEvents(pace.soon);
    return () => {
      over.abort();
      pace.stop();
      soon.current = undefined;
      stop();
    };
  }, [around, store, tracker, tab.id]);
  return useCallback((ids: string[]) => {
    sight.current = ids;
    soon.current?.();
  }, []);
}

export type Asked = { where?: string; words?: string; order?: string };
type PassedOver = { label: string; why: string };
type Found = { key: string; ids?: string[]; error?: unknown; passedOver: PassedOver[]; odd: number };

// useFound gives the ids of the rows that are asked for, in order, and keeps them current.
// Until an answer is there, those of the question before it stand, if it was of the same tab.
export function useFound(tracker: string, tab: string, asked: Asked | undefined): Omit<Found, "key"> {
  const [found, setFound] = useState<Found>({ key: "", passedOver: [], odd: 0 });
  const question = asked && JSON.stringify(asked);
  useEffect(() => {
    if (question === undefined) return;
    const over = new AbortController();
    const look = async () => {
      try {
        const order = await ask(
          api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/order", {
            params: { path: { tracker, tab }, query: JSON.parse(question) as Asked },
            signal: over.signal,
          }),
        );
        if (over.signal.aborted) return;
        setFound({ key: tab, ids: order.rows, passedOver: order.passed_over ?? [], odd: order.odd ?? 0 });
      } catch (error) {
        if (!over.signal.aborted) setFound({ key: tab, ids: [], error, passedOver: [], odd: 0 });
      }
    };
    const pace = paced(look);
    pace.now();
    const stop = listen((e) => e.trackers.includes(tracker) && pace.soon());
    return () => {
      over.abort();
      pace.stop();
      stop();
    };
  }, [tracker, tab, question]);
  return question !== undefined && found.key === tab ? found : nothing;
}

const nothing = { passedOver: [], odd: 0 };
