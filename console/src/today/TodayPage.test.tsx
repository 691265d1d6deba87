import { cleanup, screen, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker } from "../testing/page";
import TodayPage from "./TodayPage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const nothing = {
  day: "2026-11-27",
  failed: [],
  held: [],
  more: { held: 0, nobody: 0, overdue: 0, waiting: 0 },
  next: [],
  nobody: [],
  notices: [],
  overdue: [],
  people: [],
  rounds: [],
  waiting: [],
};
const row = {
  tracker: "Loans",
  tracker_id: "t1",
  tab: "Agreed",
  tab_id: "b1",
  row: "r1",
  reminder: "Late",
  shown: [],
  to: [],
};
const at = "2026-11-27T08:30:00Z";

function open(today: object, trackers = [tracker("admin")]) {
  service({
    "GET /api/v1/today": { body: today },
    "GET /api/v1/trackers": { body: trackers },
    "GET /api/v1/trackers/t1/tallies": { body: [] },
    "GET /api/v1/trackers/t1/tallies/today": { body: [] },
  });
  const { client } = openPage(<TodayPage />, "/", "/", tracker("admin"));
  client.setQueryData(["trackers"], trackers);
}

it("says that there is nothing to do", async () => {
  open(nothing);
  expect(await screen.findByText("Nothing is overdue; nothing failed this week.")).toBeTruthy();
  for (const said of ["No failed runs in the last 7 days.", "Nothing is scheduled."])
    expect(screen.getByText(said)).toBeTruthy();
  expect(screen.queryByText("Needs attention")).toBeNull();
});

it("says whose rows are overdue, what failed, what waits and what needs attention", async () => {
  open({
    ...nothing,
    people: [{ address: "ines@example.org", name: "Ines Valadar", rows: 1 }],
    overdue: [{ ...row, label: "Bell" }],
    failed: [
      {
        id: "R1",
        tracker: "t1",
        kind: "sync",
        name: "Lenders",
        at,
        cause: "",
        outcome: "failed",
        problem: "no answer",
      },
    ],
    held: [{ tracker_id: "t1", conflict: { sync: "Lenders", key: "L-1", fields: [{ column: "Country" }] } }],
    next: [{ tracker_id: "t1", kind: "round", name: "Morning round", next: at }],
    notices: [{ about: "disk", says: "The disk is nearly full.", since: at }],
    waiting: [
      { id: "m1", to: "joren@example.org", subject: "x", state: "given up", problem: "no such mailbox", made: at },
    ],
  });
  expect(
    await screen.findByText(
      "1 row overdue, 1 person; 1 run failed this week; 1 thing about the service to look at; 1 conflict open; 1 email not delivered.",
    ),
  ).toBeTruthy();
  expect(within(screen.getByLabelText("Needs attention")).getByText(/The disk is nearly full/)).toBeTruthy();
  expect(screen.getByText("sync Lenders").getAttribute("href")).toBe("/t/t1/runs/R1");
  for (const said of ["no answer", "Ines Valadar", "no such mailbox", "given up"])
    expect(screen.getByText(said)).toBeTruthy();
  expect(screen.getByText("L-1").getAttribute("href")).toBe("/t/t1/lists");
});

it("greets with ways to begin where there is no tracker", async () => {
  open(nothing, []);
  expect(await screen.findByText("Welcome to Kavlo")).toBeTruthy();
  expect(screen.getByText("Import a file")).toBeTruthy();
});
