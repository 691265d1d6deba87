import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import PagesPage from "./PagesPage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const base = "/api/v1/trackers/t1";
const ref = (title: string, row: string, more = {}) => ({
  title,
  row,
  pattern: "Venue file",
  pattern_id: "p1",
  tracker: "t1",
  address: "",
  in: "Venues",
  ...more,
});

function open(role: "reader" | "editor", answers: Record<string, Answer> = {}) {
  const asked = service({
    [`GET ${base}/dossiers`]: {
      body: [{ id: "p1", kind: "dossier", name: "Venue file", says: "A page for each row.", body: {} }],
    },
    [`GET ${base}/pages`]: { body: [ref("Annex", "r2"), ref("North Pier", "r1", { archived: true, in: undefined })] },
    ...answers,
  });
  openPage(<PagesPage />, "/t/:tracker/pages", "/t/t1/pages", tracker(role));
  return asked;
}

it("lists pages, finds them by name, and says when none is called so", async () => {
  open("reader");
  expect((await screen.findByText("Annex")).getAttribute("href")).toBe("/t/t1/pages/p1/r2");
  expect(screen.getByText("archived")).toBeTruthy();
  expect(screen.queryByText("Open missing pages")).toBeNull();
  const find = screen.getByLabelText("Find a page of Venue file");
  fireEvent.change(find, { target: { value: "pier" } });
  expect(screen.queryByText("Annex")).toBeNull();
  fireEvent.change(find, { target: { value: "quay" } });
  expect(screen.getByText("No page of Venue file has “quay” in its title.")).toBeTruthy();
});

it("saves all pages of a kind as a workbook, or those that are marked", async () => {
  open("reader");
  const button = (await screen.findByText("Save as a workbook")).closest("a");
  expect(button?.getAttribute("href")).toBe(`${base}/dossiers/p1/workbook`);
  fireEvent.click(screen.getByLabelText("Mark North Pier"));
  expect(screen.getByText("Save 1 page as a workbook").closest("a")?.getAttribute("href")).toBe(
    `${base}/dossiers/p1/workbook?page=r1`,
  );
});

it("opens missing pages once they are confirmed, and offers to undo", async () => {
  const detail = { opened: 40, closed: 0, there: 12, left: 268, skipped: 1 };
  const asked = open("editor", {
    [`POST ${base}/dossiers/p1/open`]: { body: { changes: [], followed: [], detail, seq: 9 } },
    "POST /api/v1/undo/9": { body: { changes: [], followed: [] } },
  });
  fireEvent.change(await screen.findByLabelText("at most"), { target: { value: "40" } });
  fireEvent.click(screen.getByText("Open missing pages"));
  expect(
    await screen.findByText(
      "40 pages will be opened; 12 rows had one, 268 left for another time, 1 skipped because of odd cells.",
    ),
  ).toBeTruthy();
  const posts = () => asked.filter((a) => a.key.startsWith("POST"));
  expect(posts().map((a) => [a.query, a.body])).toEqual([["?preview=yes", { limit: 40 }]]);
  fireEvent.click(screen.getByText("Open 40 pages"));
  expect(await screen.findByText(/^40 pages opened; 12 rows had one/)).toBeTruthy();
  fireEvent.click(screen.getByText("Undo"));
  await waitFor(() => expect(posts().at(-1)?.key).toBe("POST /api/v1/undo/9"));
});

it("closes marked pages after a word", async () => {
  const detail = { opened: 0, closed: 1, there: 0, left: 0, skipped: 0 };
  const asked = open("editor", {
    [`POST ${base}/dossiers/p1/close`]: { body: { changes: [], followed: [], detail, seq: 4 } },
  });
  fireEvent.click(await screen.findByLabelText("Mark Annex"));
  fireEvent.click(screen.getByText("Close 1 page"));
  expect(await screen.findByText("1 page will be closed, with their logs.")).toBeTruthy();
  expect(asked.find((a) => a.key.startsWith("POST"))?.body).toEqual({ rows: ["r2"] });
});
