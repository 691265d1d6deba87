import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Conflict } from "../api/client";
import { openPage, service, tracker, type Answer, type Asked } from "../testing/page";
import { Conflicts } from "./Conflicts";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const held: Conflict[] = [
  {
    sync: "Lenders",
    key: "L-1",
    label: "Old Mill",
    since: "2026-11-27T08:30:00Z",
    fields: [{ column: "Country", before: "Averin", list: "Dunmere", tab: "Quill" }],
  },
  { sync: "Insurance", key: "P-2", lost: "list", fields: [{ column: "Cover", before: 10, list: null, tab: 12 }] },
];
const settle = (sync: string) => `POST /api/v1/trackers/t1/syncs/${sync}/settle`;
const settled = { body: { changes: [], followed: [], passed_over: [], counts: {} } };

const posts = (asked: Asked[]) => asked.filter((a) => a.key.startsWith("POST"));

function open(role: "editor" | "reader", more: Record<string, Answer> = {}) {
  const asked = service({ [settle("Lenders")]: settled, [settle("Insurance")]: settled, ...more });
  openPage(<Conflicts tracker="t1" held={held} />, "/", "/", tracker(role));
  return asked;
}

it("shows what each side has, and keeps one of them", async () => {
  const asked = open("editor");
  const one = within(screen.getByLabelText("Conflict on Old Mill"));
  for (const said of ["Averin", "Dunmere", "Quill"]) expect(one.getByText(said)).toBeTruthy();
  expect(within(screen.getByLabelText("Conflict on P-2")).getByText("removed it")).toBeTruthy();
  fireEvent.click(screen.getByLabelText("Keep tab value of Old Mill"));
  expect(await screen.findByText("1 conflict: both sides have what the tab had.")).toBeTruthy();
  expect(posts(asked).map((a) => [a.key, a.body])).toEqual([[settle("Lenders"), { keys: ["L-1"], take: "tab" }]]);
});

it("settles all that are marked, each in its sync", async () => {
  const asked = open("editor");
  expect(screen.getByText("Keep list values of 0 selected").closest("button")?.disabled).toBe(true);
  fireEvent.click(screen.getByText("Select all"));
  fireEvent.click(screen.getByLabelText("Mark P-2"));
  expect(screen.getByText("Keep list values of 1 selected")).toBeTruthy();
  fireEvent.click(screen.getByLabelText("Mark P-2"));
  fireEvent.click(screen.getByText("Keep list values of 2 selected"));
  await waitFor(() => expect(posts(asked)).toHaveLength(2));
  expect(posts(asked).map((a) => a.key)).toEqual([settle("Lenders"), settle("Insurance")]);
});

it("says what stands in the way, and offers a reader nothing", async () => {
  open("editor", { [settle("Lenders")]: { status: 409, body: { title: "Changed", detail: "it is settled already" } } });
  fireEvent.click(screen.getByLabelText("Keep list value of Old Mill"));
  expect(await screen.findByText("it is settled already")).toBeTruthy();
  cleanup();
  open("reader");
  expect(screen.getByText("Dunmere")).toBeTruthy();
  expect(screen.queryByText("Keep list value")).toBeNull();
});
