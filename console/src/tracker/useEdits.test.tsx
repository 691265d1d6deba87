import { App } from "antd";
import { act, cleanup, renderHook } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import type { Column, Row } from "../api/client";
import { api } from "../api/client";
import { RowStore } from "./rowStore";
import { useEdits } from "./useEdits";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const due: Column = { id: "c1", name: "Due", type: "date", bad_input: "mark" };
const row = (version: number, cells: Record<string, unknown>): Row =>
  ({ id: "r1", version, tab_id: "b1", tab: "Requested", label: "Bell", pos: 1, cells }) as Row;

// A service of one row, which answers in its own time and refuses older versions.
function service(stands: Row) {
  const sent: string[] = [];
  let now = stands;
  vi.spyOn(api, "PATCH").mockImplementation((async (_: string, { params, body }: never) => {
    const { header } = params as { header: { "If-Match": string } };
    const { cells } = body as { cells: Record<string, unknown> };
    sent.push(`${header["If-Match"]} ${String(cells["Due"])}`);
    await new Promise((resolve) => setTimeout(resolve, 5));
    if (header["If-Match"] !== `"${now.version}"`)
      return { error: { status: 412, title: "Changed", detail: "changed", current: now }, response: new Response() };
    now = row(now.version + 1, { ...now.cells, ...cells });
    return { data: { seq: now.version, changes: [], followed: [], rows: [now] }, response: new Response() };
  }) as never);
  return {
    sent,
    theirs: (cells: Record<string, unknown>) => (now = row(now.version + 1, { ...now.cells, ...cells })),
    now: () => now,
  };
}

function edits() {
  const store = new RowStore();
  const { result } = renderHook(() => useEdits("t1", store), { wrapper: ({ children }) => <App>{children}</App> });
  return result;
}

it("takes an edit of a cell that I have just edited for mine, answered or not", async () => {
  const first = row(1, { Due: "2026-10-26" });
  const there = service(first);
  const hook = edits();
  await act(async () => {
    const one = hook.current.set({ row: first, column: due, value: "2026-11-27" });
    const two = hook.current.set({ row: first, column: due, value: "2026-04-03" });
    await Promise.all([one, two]);
  });
  expect(hook.current.race).toBeUndefined();
  expect(there.now().cells["Due"]).toBe("2026-04-03");
  expect(there.sent).toEqual(['"1" 2026-11-27', '"1" 2026-04-03', '"2" 2026-04-03']);
});

it("asks whose stays where somebody else was there in between", async () => {
  const first = row(1, { Due: "2026-10-26" });
  const there = service(first);
  const hook = edits();
  await act(() => hook.current.set({ row: first, column: due, value: "2026-11-27" }));
  there.theirs({ Due: "2026-12-24" });
  await act(() => hook.current.set({ row: first, column: due, value: "2026-04-03" }));
  expect(hook.current.race?.current.cells["Due"]).toBe("2026-12-24");
  expect(there.now().cells["Due"]).toBe("2026-12-24");
});
