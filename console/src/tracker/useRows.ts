// Getting a tab's rows: all of them into the store, or those a clause finds.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask, type Row } from "../api/client";
import { listen } from "../api/live";
import type { RowStore } from "./rowStore";

const pageRows = 5000;

async function fetchRows(tracker: string, tab: string, where?: string) {
  const rows: Row[] = [];
  for (;;) {
    const page = await ask(
      api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
        params: { path: { tracker, tab }, query: { limit: pageRows, offset: rows.length, where } },
      }),
    );
    rows.push(...page.rows);
    if (rows.length >= page.total || page.rows.length === 0) return { rows, passedOver: page.passed_over ?? [] };
  }
}

// useLoaded loads a tab's rows when it is opened, and again on demand.
export function useLoaded(store: RowStore, tracker: string, tab: string) {
  const loaded = useQuery({
    queryKey: ["rows", tracker, tab],
    queryFn: async () => {
      const { rows } = await fetchRows(tracker, tab);
      store.load(tab, rows);
      return rows.length;
    },
    staleTime: 0,
    refetchOnWindowFocus: false,
  });
  return { error: loaded.error ?? undefined, again: loaded.refetch };
}

type Found = { ids?: string[]; error?: unknown; passedOver: { label: string; why: string }[] };

const settle = 200; // milliseconds after an event before asking again

// useFound gives the rows for which a clause holds, and keeps them current.
export function useFound(store: RowStore, tracker: string, tab: string, where: string): Found {
  const [found, setFound] = useState<Found>({ passedOver: [] });
  useEffect(() => {
    let over = false;
    let timer: number | undefined;
    const look = async () => {
      if (where === "") {
        setFound({ passedOver: [] });
        return;
      }
      try {
        const { rows, passedOver } = await fetchRows(tracker, tab, where);
        if (over) return;
        for (const row of rows) store.put(row);
        setFound({ ids: rows.map((r) => r.id), passedOver });
      } catch (error) {
        if (!over) setFound((f) => ({ ...f, error, passedOver: [] }));
      }
    };
    void look();
    const stop = listen(() => {
      window.clearTimeout(timer);
      timer = window.setTimeout(() => void look(), settle);
    });
    return () => {
      over = true;
      window.clearTimeout(timer);
      stop();
    };
  }, [store, tracker, tab, where]);
  return found;
}
