import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Untidy } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import TidyPage from "./TidyPage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const at = "/api/v1/trackers/t1/tidy";
const spelling: Untidy = {
  id: "spelling b1 c1 northpier",
  kind: "spelling",
  tab: "Jobs",
  tab_id: "b1",
  column: "Hall",
  says: "2 spellings",
  count: 2,
  mended: 2,
  cells: [
    { row: "r1", label: "Glue", before: "north pier", after: "North Pier", why: "most say North Pier" },
    { row: "r2", label: "Nail", before: "North  Pier", after: "North Pier", why: "most say North Pier" },
  ],
};
const odd: Untidy = {
  ...spelling,
  id: "odd b1 c2",
  kind: "odd",
  column: "Due",
  says: "does not fit the column",
  mended: 0,
  count: 60,
  cells: [{ row: "r3", label: "Saw", before: "soon", after: null, why: "is not a date" }],
};

function open(role: "reader" | "editor", found: Untidy[], more: Record<string, Answer> = {}) {
  const asked = service({
    [`GET ${at}`]: { body: found },
    "GET /api/v1/trackers": { body: [tracker(role)] },
    ...more,
  });
  openPage(<TidyPage />, "/t/:tracker/tidy", "/t/t1/tidy", tracker(role));
  return asked;
}

it("shows what is not right by kind, before and after, and offers readers nothing", async () => {
  open("reader", [spelling, odd]);
  expect(await screen.findByRole("heading", { name: "Spelt in several ways" })).toBeTruthy();
  expect(screen.getByText("Hall in Jobs")).toBeTruthy();
  expect(screen.getAllByText("North Pier").length).toBeGreaterThanOrEqual(2);
  expect(screen.getByText("Glue").getAttribute("href")).toBe("/t/t1/b1?row=r1");
  expect(screen.getByText("no fix known")).toBeTruthy();
  expect(screen.getByText("and 59 more cells")).toBeTruthy();
  expect(screen.queryByText("Fix 2 cells")).toBeNull();
});

it("puts all of a finding right at once, and offers to undo", async () => {
  const asked = open("editor", [spelling], {
    [`POST ${at}`]: { body: { changes: [], followed: [], counts: { set: 2 }, seq: 12 } },
    "POST /api/v1/undo/12": { body: { changes: [], followed: [] } },
  });
  fireEvent.click((await screen.findByText("Fix 2 cells")).closest("button") ?? document.body);
  expect(await screen.findByText("Fixed 2 cells")).toBeTruthy();
  expect(asked.find((a) => a.key === `POST ${at}`)?.body).toEqual({ id: spelling.id });
  fireEvent.click(screen.getByText("Undo"));
  await waitFor(() => expect(asked.some((a) => a.key === "POST /api/v1/undo/12")).toBe(true));
});

it("takes a value for all cells where no fix is known, and tells what is refused", async () => {
  const asked = open("editor", [odd], {
    [`POST ${at}`]: { status: 409, body: { title: "Refused", detail: "Due would be blank", status: 409 } },
  });
  expect((await screen.findByText("No fix known")).closest("button")?.disabled).toBe(true);
  fireEvent.change(screen.getByLabelText("A value for all cells of Due"), { target: { value: "2026-04-01" } });
  fireEvent.click(screen.getByText("Fix 60 cells").closest("button") ?? document.body);
  expect(await screen.findByText("Due would be blank")).toBeTruthy();
  expect(asked.find((a) => a.key === `POST ${at}`)?.body).toEqual({ id: odd.id, to: "2026-04-01" });
});

it("says that nothing is to be tidied", async () => {
  open("reader", []);
  expect(await screen.findByText(/No problems found in the rows/)).toBeTruthy();
});
