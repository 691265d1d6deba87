// Who else is in a tracker: the service is told where one is oneself, and tells where others are.
import { useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import { api, ask } from "../api/client";
import { presence, type Present } from "../api/presence";
import { useSession } from "../parts/queries";

const apart = 1000; // milliseconds between two tellings, at least
const settled = 300; // and after a move, so that it is not in the way of the edit that ended in it
const again = 25_000; // and at most, for the service forgets whom it does not hear of

const page = Array.from(crypto.getRandomValues(new Uint8Array(8)), (n) => n.toString(16).padStart(2, "0")).join("");

/** Where is a tab, and a cell of it if one is selected. */
export type Where = { tab: string; row?: string; column?: string };

export function useOthers(tracker: string, where: Where): Present[] {
  const me = useSession().data?.person.id;
  const all = useSyncExternalStore(presence.subscribe, presence.list);
  const { tab, row, column } = where;
  const move = useRef<(to: Where) => void>(undefined);

  useEffect(() => {
    const path = { tracker, page };
    let now: Where = { tab };
    let told = -Infinity;
    let timer: number | undefined;
    const tell = () => {
      window.clearTimeout(timer);
      timer = window.setTimeout(tell, again);
      if (document.visibilityState === "hidden") return;
      told = performance.now();
      // who cannot be told is told the next time
      void ask(api.PUT("/api/v1/trackers/{tracker}/presence/{page}", { params: { path }, body: now })).catch(() => {});
    };
    move.current = (to) => {
      now = to;
      window.clearTimeout(timer);
      const wait = Math.max(settled, told + apart - performance.now());
      timer = window.setTimeout(tell, told < 0 ? 0 : wait);
    };
    const leave = () => {
      window.clearTimeout(timer);
      void ask(api.DELETE("/api/v1/trackers/{tracker}/presence/{page}", { params: { path }, keepalive: true })).catch(
        () => {},
      );
    };
    const look = () => document.visibilityState === "visible" && tell();
    document.addEventListener("visibilitychange", look);
    window.addEventListener("pagehide", leave);
    void ask(api.GET("/api/v1/presence")).then(presence.take, () => {});
    return () => {
      document.removeEventListener("visibilitychange", look);
      window.removeEventListener("pagehide", leave);
      leave();
    };
    // which tab it is at first matters not: the next effect says it
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [tracker]);
  useEffect(() => move.current?.({ tab, row, column }), [tracker, tab, row, column]);

  return useMemo(() => all.filter((p) => p.tracker === tracker && p.person !== me), [all, tracker, me]);
}

/** atCells gives, by row and column, the names of those who are there. */
export function atCells(others: Present[]): Map<string, Map<string, string[]>> {
  const rows = new Map<string, Map<string, string[]>>();
  for (const { row, column, name } of others) {
    if (!row || !column) continue;
    const cells = rows.get(row) ?? new Map<string, string[]>();
    const names = cells.get(column) ?? [];
    if (!names.includes(name)) cells.set(column, [...names, name]);
    rows.set(row, cells);
  }
  return rows;
}
