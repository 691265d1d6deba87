import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import RunPage from "./RunPage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const run = {
  id: "R1",
  tracker: "t1",
  kind: "rule",
  name: "Mark late",
  at: "2026-11-27T08:30:00Z",
  cause: "schedule",
  outcome: "done",
  seq: 7,
  rules: [
    {
      rule: "Mark late",
      considered: 40,
      matched: 2,
      passed: 1,
      steps: [{ kind: "set", rows: 2, changed: 2, took: 1500, says: "set Flag", remark: "as agreed" }],
    },
    { rule: "On trial", considered: 5, matched: 1, passed: 0, watching: true, would: ["Bell: Flag would be Hold"] },
  ],
  passed_over: [{ row: "r9", label: "Horn", tab: "Agreed", why: "Due is odd" }],
  changes: [
    { kind: "set", row: "r1", label: "Bell", tab: "Agreed", column: "Flag", before: null, after: "Late", because: "" },
  ],
  more: 3,
};

function open(role: "editor" | "reader", found: object = run, more: Record<string, Answer> = {}) {
  const asked = service({ "GET /api/v1/runs/R1": { body: found }, ...more });
  openPage(<RunPage />, "/t/:tracker/runs/:run", "/t/t1/runs/R1", tracker(role));
  return asked;
}

it("says what each step did, what was skipped and what a dry run would have done", async () => {
  open("reader");
  expect(await screen.findByText("Mark late", { selector: "h1" })).toBeTruthy();
  for (const said of ["1.5 ms", "set Flag; as agreed", "Bell: Flag would be Hold", "and 3 more changes"]) {
    expect(screen.getByText(said)).toBeTruthy();
  }
  expect(screen.getByText(/Due is odd/)).toBeTruthy();
  expect(screen.queryByText("Undo run")).toBeNull();
});

it("undoes a run, and asks where later changes stand in the way", async () => {
  const blocked = {
    title: "Conflict",
    detail: "changed since",
    status: 409,
    conflicts: ["Bell: Flag was set by Marta"],
  };
  const asked = open("editor", run, { "POST /api/v1/undo/R1": { status: 409, body: blocked } });
  fireEvent.click(await screen.findByText("Undo run"));
  expect(await screen.findByText("Bell: Flag was set by Marta")).toBeTruthy();
  fireEvent.click(screen.getByText("Undo the rest"));
  await waitFor(() =>
    expect(asked.filter((a) => a.key.startsWith("POST")).map((a) => a.query)).toEqual(["", "?force=yes"]),
  );
});

it("shows both sides of a sync, and the report of anything else", async () => {
  const detail = {
    added_to_tab: 2,
    writes: [{ kind: "add", key: "L-9", fields: [] }],
    stopped: "the list does not answer",
    troubles: [{ key: "L-3", why: "two records have this key" }],
  };
  open("editor", { ...run, kind: "sync", name: "Lenders", rules: [], changes: [], passed_over: [], detail });
  expect(await screen.findByText("Records: 2 new in the tab.")).toBeTruthy();
  for (const said of ["L-9", "the list does not answer", "two records have this key"])
    expect(screen.getByText(said)).toBeTruthy();
  cleanup();
  open("editor", {
    ...run,
    undone: true,
    rules: [],
    changes: [],
    kind: "round",
    detail: { people: 3, passed_over: ["x"] },
  });
  expect(await screen.findByText("passed over:")).toBeTruthy();
  expect(screen.getByText(/, undone/)).toBeTruthy();
  expect(screen.queryByText("Undo run")).toBeNull();
});
