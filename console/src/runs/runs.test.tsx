import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
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
    "GET /api/v1/people": { body: [{ id: 1, name: "Ines Valadar", address: "ines@example.org", access: "keeper" }] },
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
