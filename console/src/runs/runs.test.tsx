import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import type { Column } from "../api/client";
import RunsPage from "./RunsPage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const base = "/api/v1/trackers/t1";
const entry = (seq: number, more = {}) => ({
  seq,
  at: "2026-03-25T09:00:00Z",
  who: "Ines Valadar",
  says: "edit",
  counts: { set: 2 },
  ...more,
});
const change = { kind: "set", row: "r1", label: "Bell", tab: "Asked", column: "Stage", before: "Asked", after: "Lent" };

function open(role: "editor" | "reader", more: Record<string, Answer> = {}) {
  const asked = service({
    "GET /api/v1/trackers": { body: [tracker(role)] },
    "GET /api/v1/people": { body: [{ id: 1, name: "Ines Valadar", address: "ines@example.org", access: "admin" }] },
    [`GET ${base}/runs`]: { body: [] },
    [`GET ${base}/journal`]: { body: [entry(9), entry(8, { says: "rule Move", who: "Demo" })] },
    "GET /api/v1/journal/9": { body: { changes: [change], followed: [] } },
    ...more,
  });
  openPage(<RunsPage />, "/t/:tracker/runs", "/t/t1/runs", tracker(role));
  return asked;
}

it("shows every change, by whom, and undoes one", async () => {
  const asked = open("editor", { "POST /api/v1/undo/9": { body: { changes: [], followed: [], seq: 10 } } });
  expect(await screen.findByText(/No runs yet/)).toBeTruthy();
  fireEvent.click(screen.getByText("All changes"));
  expect(await screen.findByText("rule Move")).toBeTruthy();
  fireEvent.click(screen.getAllByLabelText("Expand row")[0] ?? document.body);
  expect(await screen.findByText("Bell")).toBeTruthy();
  fireEvent.mouseDown(screen.getByLabelText("Changes by"));
  await waitFor(() => expect(document.querySelector(".ant-select-item-option")).toBeTruthy());
  fireEvent.click(document.querySelector(".ant-select-item-option") ?? document.body);
  await waitFor(() => expect(asked.some((a) => a.query.includes("by=Ines"))).toBe(true));
  fireEvent.click(await screen.findByLabelText("Undo change set 9"));
  expect(await screen.findByText("Saved as change set 10.")).toBeTruthy();
});

it("says what stands in the way of an undo, and offers none to readers", async () => {
  open("editor", {
    "POST /api/v1/undo/9": {
      status: 409,
      body: { title: "Blocked by later changes", detail: "see", conflicts: ["change set 12"], status: 409 },
    },
  });
  fireEvent.click(await screen.findByText("All changes"));
  fireEvent.click(await screen.findByLabelText("Undo change set 9"));
  expect(await screen.findByText("see change set 12")).toBeTruthy();
  cleanup();
  open("reader");
  fireEvent.click(await screen.findByText("All changes"));
  expect(await screen.findByText("rule Move")).toBeTruthy();
  expect(screen.queryByLabelText("Undo change set 9")).toBeNull();
});

const name: Column = { id: "c1", name: "Object", type: "text", bad_input: "mark" };
const stage: Column = { id: "c2", name: "Stage", type: "text", bad_input: "mark" };
const tabs = [{ id: "b1", name: "Asked", label: "Object", columns: [name, stage], rows: 2, overdue: 0 }];

it("lists the changes of a tab, and of one row", async () => {
  const here = { "GET /api/v1/trackers": { body: [tracker("reader", { tabs })] } };
  const asked = service({ ...here, "GET /api/v1/people": { body: [] }, [`GET ${base}/journal`]: { body: [entry(9)] } });
  openPage(<RunsPage />, "/t/:tracker/runs", "/t/t1/runs?show=changes&row=r1", tracker("reader", { tabs }));
  await waitFor(() => expect(asked.some((a) => a.query.includes("row=r1"))).toBe(true));
  fireEvent.click(await screen.findByText("Only row r1 ×"));
  fireEvent.mouseDown(screen.getByLabelText("Changes in tab"));
  fireEvent.click(await screen.findByTitle("Asked"));
  await waitFor(() => expect(asked.at(-1)?.query).toContain("tab=b1"));
  expect(asked.at(-1)?.query).not.toContain("row=");
});

it("shows a tab as of a moment, with what differs from now", async () => {
  const row = (id: string, cells: Record<string, unknown>) => ({ id, tab: "b1", version: 1, cells });
  const rows = [row("r1", { Object: "Bell", Stage: "Asked" }), row("r2", { Object: "Horn", Stage: "Lent" })];
  const asked = service({
    "GET /api/v1/trackers": { body: [tracker("reader", { tabs })] },
    "GET /api/v1/people": { body: [] },
    [`GET ${base}/tabs/b1/rows`]: { body: { rows, total: 2, passed_over: [] } },
  });
  const { client } = openPage(
    <RunsPage />,
    "/t/:tracker/runs",
    "/t/t1/runs?show=as-of&at=2026-03-01T08:00",
    tracker("reader", { tabs }),
  );
  expect(await screen.findByText("Nothing differs from now.")).toBeTruthy();
  expect(asked.some((a) => a.query.includes("as_of=2026-0"))).toBe(true);
  const now = [row("r1", { Object: "Bell", Stage: "Agreed" }), row("r3", { Object: "Drum", Stage: "Asked" })];
  client.setQueryData(["as of", "t1", "b1", "now"], { rows: now, total: 2, passed_over: [] });
  expect(await screen.findByText("left the tab")).toBeTruthy();
  expect(screen.getByText("came into the tab")).toBeTruthy();
  expect(screen.getByText("Agreed").tagName).toBe("INS");
  expect(screen.getByText(/2 rows then, 2 now: 1 row changed since, 1 left the tab, 1 came into it/)).toBeTruthy();
});
