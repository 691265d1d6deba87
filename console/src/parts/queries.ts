// What several pages ask the service for.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, ask } from "../api/client";
import { listen, since } from "../api/live";
import { paced } from "./paced";
import { when, whenThere } from "./time";

export function useTrackers() {
  return useQuery({ queryKey: ["trackers"], queryFn: () => ask(api.GET("/api/v1/trackers")) });
}

/** useTracker gives a tracker by its id or name, once the trackers are known. */
export function useTracker(name: string) {
  return useTrackers().data?.find((one) => one.id === name || one.name === name);
}

/** useWhen gives what writes times in the zone of a tracker, named where the browser's differs. */
export function useWhen() {
  const trackers = useTrackers();
  return (iso: string, tracker?: string) => {
    const zone = trackers.data?.find((t) => t.id === tracker || t.name === tracker)?.zone;
    return zone === undefined ? when(iso) : whenThere(iso, zone);
  };
}

export function usePeople() {
  return useQuery({ queryKey: ["people"], queryFn: () => ask(api.GET("/api/v1/people")), staleTime: 60_000 });
}

export function useSession() {
  return useQuery({ queryKey: ["session"], queryFn: () => ask(api.GET("/api/v1/session")), staleTime: 300_000 });
}

// Rows follow the events themselves; people and sessions change seldom.
const keptOtherwise = new Set(["session", "people", "rows", "reading"]);

// useFresh keeps every page up to date with what others do.
export function useFresh() {
  const queries = useQueryClient();
  const trackers = useTrackers();
  const known = trackers.isSuccess;
  const version = Math.max(0, ...(trackers.data ?? []).map((t) => t.version));
  useEffect(() => since(version), [version]);
  useEffect(() => {
    if (!known) return;
    const pace = paced(() =>
      queries.invalidateQueries({ predicate: (q) => !keptOtherwise.has(String(q.queryKey[0])) }),
    );
    const stop = listen(pace.soon);
    return () => {
      pace.stop();
      stop();
    };
  }, [queries, known]);
}
