import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import type { PropsWithChildren } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { LiveEvent, Row, Tab } from "../api/client";
import * as live from "../api/live";
import { service } from "../testing/page";
import { RowStore } from "./rowStore";
import { forget, storeOf } from "./stores";
import { useAround, useFound, useLoaded } from "./useRows";

let tell: (e: LiveEvent) => void;

beforeEach(() => {
  const listeners = new Set<(e: LiveEvent) => void>();
  tell = (e) => listeners.forEach((l) => l(e));
  vi.spyOn(live, "listen").mockImplementation((l) => {
    listeners.add(l);
    return () => listeners.delete(l);
  });
});

afterEach(() => {
  cleanup();
  forget();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

const row = (n: number, cells = {}, version = 1): Row => ({
  id: `r${n}`,
  tab: "Open",
  tab_id: "b1",
  label: `Row ${n}`,
  pos: n,
  version,
  cells,
});
const event = (more: Partial<LiveEvent>): LiveEvent => ({
  seq: 2,
  trackers: ["t1"],
  who: "x",
  says: "",
  rows: [],
  gone: [],
  ...more,
});
const tab: Tab = {
  id: "b1",
  name: "Open",
  label: "Name",
  rows: 2,
  overdue: 0,
  columns: [
    { id: "c1", name: "So far", type: "number", bad_input: "mark", clause: "running sum Pieces", around: true },
  ],
};
const rowsAt = "GET /api/v1/trackers/t1/tabs/b1/rows";
const orderAt = "GET /api/v1/trackers/t1/tabs/b1/order";

function wrapper({ children }: PropsWithChildren) {
  return (
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      {children}
    </QueryClientProvider>
  );
}

it("keeps what one has looked at, and fetches it again only when it is in doubt", async () => {
  const asked = service({ [rowsAt]: { body: { rows: [row(1), row(2)], total: 2 } } });
  const store = storeOf("t1");
  const first = renderHook(() => useLoaded(store, "t1", "b1"), { wrapper });
  await waitFor(() => expect(store.loaded("b1")).toBe(true));
  first.unmount();
  expect(storeOf("t1")).toBe(store);
  act(() => tell(event({ rows: [row(3, {}, 2)] }))); // while one is elsewhere
  expect(store.ids("b1")).toEqual(["r1", "r2", "r3"]);
  renderHook(() => useLoaded(store, "t1", "b1"), { wrapper });
  act(() => tell(event({ trackers: ["t2"], rows: [row(9)] })));
  expect(asked).toHaveLength(1);
  act(() => tell(event({ reload: true })));
  await waitFor(() => expect(asked).toHaveLength(2));
});

it("keeps the rows of a few trackers", () => {
  const first = storeOf("t1");
  for (const id of ["t2", "t3", "t1", "t4"]) storeOf(id);
  expect(storeOf("t1")).toBe(first);
  const second = storeOf("t2");
  forget();
  expect(storeOf("t2")).not.toBe(second);
});

it("shows no old rows under a new error, nor under another tab", async () => {
  service({ [orderAt]: { body: { rows: ["r2", "r1"] } } });
  const { result, rerender } = renderHook(({ tab, order }) => useFound("t1", tab, { order }), {
    wrapper,
    initialProps: { tab: "b1", order: "Name" },
  });
  await waitFor(() => expect(result.current.ids).toEqual(["r2", "r1"]));
  service({ [orderAt]: { status: 422, body: { title: "Clause not understood", status: 422 } } });
  rerender({ tab: "b1", order: "Nme" });
  await waitFor(() => expect(result.current.error).toBeTruthy());
  expect(result.current.ids).toEqual([]);
  service({ [orderAt]: { body: { rows: ["r2"], odd: 1, passed_over: [{ label: "x", why: "y" }] } } });
  rerender({ tab: "b1", order: "Name descending" });
  await waitFor(() => expect(result.current.odd).toBe(1));
  rerender({ tab: "b2", order: "Name descending" });
  expect(result.current.ids).toBeUndefined();
});

it("keeps current what is computed from other rows, of the rows in sight alone", async () => {
  const store = new RowStore();
  store.load("b1", [row(1, { "So far": 1 }), row(2, { "So far": 3 }), row(3, { "So far": 6 })]);
  const asked = service({ [rowsAt]: { body: { rows: [row(2, { "So far": 8 })], total: 1 } } });
  const { result } = renderHook(() => useAround(store, "t1", tab), { wrapper });
  act(() => result.current(["r2"]));
  await new Promise((done) => setTimeout(done, 300));
  expect(asked).toHaveLength(0);
  act(() => store.apply(event({ rows: [row(1, { "So far": 6 }, 2)] })));
  await waitFor(() => expect(store.row("r2")?.cells["So far"]).toBe(8), { timeout: 3000 });
  expect(new URLSearchParams(asked[0]?.query).get("rows")).toBe("r2");
  expect(store.behind(["r1", "r2", "r3"])).toEqual(["r3"]);
});
