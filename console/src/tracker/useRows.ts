// Getting a tab's rows into the store, and the ids of those that an arrangement chooses, in
// its order.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask } from "../api/client";
import { listen } from "../api/live";
import type { RowStore } from "./rowStore";

const firstRows = 200; // so that something stands there soon
const pageRows = 5000;

async function fetchRows(store: RowStore, tracker: string, tab: string, signal: AbortSignal) {
  for (let got = 0; ;) {
    const page = await ask(
      api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
        params: { path: { tracker, tab }, query: { limit: got === 0 ? firstRows : pageRows, offset: got } },
        signal,
      }),
    );
    store.load(tab, page.rows, got > 0);
    got += page.rows.length;
    if (got >= page.total || page.rows.length === 0) return got;
  }
}

// useLoaded loads a tab's rows when it is opened, and again on demand.
export function useLoaded(store: RowStore, tracker: string, tab: string) {
  const loaded = useQuery({
    queryKey: ["rows", tracker, tab],
    queryFn: ({ signal }) => fetchRows(store, tracker, tab, signal),
    staleTime: 0,
    refetchOnWindowFocus: false,
  });
  return { error: loaded.error ?? undefined, again: loaded.refetch };
}

export type Asked = { where?: string; words?: string; order?: string };
type PassedOver = { label: string; why: string };
type Found = { key: string; ids?: string[]; error?: unknown; passedOver: PassedOver[]; odd: number };

const settle = 200; // milliseconds after an event before asking again
const apart = 1000; // milliseconds between two askings while events stream in

// useFound gives the ids of the rows that are asked for, in order, and keeps them current.
// Until an answer is there, those of the question before it stand, if it was of the same tab.
export function useFound(tracker: string, tab: string, asked: Asked | undefined): Omit<Found, "key"> {
  const [found, setFound] = useState<Found>({ key: "", passedOver: [], odd: 0 });
  const question = asked && JSON.stringify(asked);
  useEffect(() => {
    if (question === undefined) return;
    const over = new AbortController();
    let timer: number | undefined;
    let last = 0;
    const look = async () => {
      timer = undefined;
      last = performance.now();
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
    void look();
    const stop = listen((e) => {
      if (!e.trackers.includes(tracker)) return;
      timer ??= window.setTimeout(() => void look(), Math.max(settle, apart - (performance.now() - last)));
    });
    return () => {
      over.abort();
      window.clearTimeout(timer);
      stop();
    };
  }, [tracker, tab, question]);
  return question !== undefined && found.key === tab ? found : nothing;
}

const nothing = { passedOver: [], odd: 0 };
