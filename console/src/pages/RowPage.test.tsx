import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Page } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import RowPage from "./RowPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.sessionStorage.clear();
});

const page: Page = {
  title: "North Pier",
  row: "r1",
  pattern: "Venue file",
  pattern_id: "p1",
  tracker: "t1",
  address: "/t/t1/pages/p1/r1",
  in: "Venues",
  in_tracker: "Loans",
  facts: { Name: "North Pier", Opens: "soon" },
  own: { Goal: null },
  figures: { Worth: 1200, Cost: null },
  odd: { Opens: "not a date", Cost: "1 is divided by zero" },
  fields: [
    { part: "fact", name: "Name", column: column("Name"), in_step: true, note: "as signed" },
    { part: "fact", name: "Opens", column: column("Opens", { type: "date" }), in_step: true },
    { part: "own", name: "Goal", column: column("Goal", { type: "number" }) },
    { part: "figure", name: "Worth", type: "number", format: "EUR", read_only: true },
    { part: "figure", name: "Cost", type: "number", read_only: true },
  ],
  log: [{ id: "r9", version: 3, cells: { When: "2026-03-01", What: "First visit" } }],
  entries: 3,
  log_form: [
    { part: "log", name: "When", column: column("When", { type: "date", default: "today" }) },
    { part: "log", name: "What", column: column("What", { required: true }) },
    { part: "log", name: "Who", column: column("Who", { type: "person" }) },
    { part: "log", name: "Loan", column: column("Loan"), choices: ["Bell", "Horn"] },
  ],
  tables: [
    {
      name: "On loan",
      tab: "Loans",
      tab_id: "b2",
      columns: ["Object"],
      shown: [column("Object")],
      rows: [{ Object: "Bell" }, { Object: null }],
      ids: ["r5", "r6"],
      total: 7,
      skipped: 1,
    },
  ],
  next: { title: "Old Mill", row: "r2", pattern: "Venue file", pattern_id: "p1", tracker: "t1", address: "" },
};

const at = "/api/v1/trackers/t1/pages/r1";
const people = [{ id: "1", name: "Ines Valadar", address: "ines@example.org", access: "admin" }];

function open(role: "reader" | "editor", answers: Record<string, Answer> = {}) {
  const all: Record<string, Answer> = {
    [`GET ${at}`]: { body: page },
    "GET /api/v1/people": { body: people },
    "GET /api/v1/trackers": { body: [tracker(role)] },
    "GET /api/v1/session": { body: { person: { ...people[0], access: role } } },
    ...answers,
  };
  const asked = service(all);
  const { client } = openPage(<RowPage />, "/t/:tracker/pages/:pattern/:row", "/t/t1/pages/p1/r1", tracker(role));
  return { all, asked, client };
}

const editor = (name: string) => screen.getByLabelText(name, { selector: ".cell-editor" });
const button = async (text: string) => (await screen.findByText(text)).closest("button") ?? document.body;

it("shows facts with notes, figures as money, what could not be worked out, tables and log", async () => {
  open("reader");
  expect(await screen.findByRole("heading", { name: "North Pier" })).toBeTruthy();
  expect(document.title).toBe("North Pier · Kavlo");
  for (const text of [
    "Note: as signed",
    "? soon",
    "not a date",
    "1 is divided by zero",
    "7 rows, the first 2 of them, 1 skipped because of odd cells",
    "First visit",
    "and 2 more entries",
    "Next: Old Mill",
  ])
    expect(screen.getByText(text)).toBeTruthy();
  expect(screen.getByText("Worth").parentElement?.textContent).toContain("1\u202f200.00 EUR");
  expect(screen.getByText("Bell").closest("a")?.getAttribute("href")).toBe("/t/t1/b2?row=r5");
  expect(screen.getByText("r6").closest("a")).toBeTruthy();
  expect(screen.queryByTitle("Edit Goal")).toBeNull();
  expect(screen.queryByText("Add entry")).toBeNull();
});

it("edits a field in place, and keeps what was typed when it is refused", async () => {
  const { all, asked } = open("editor", {
    [`PATCH ${at}`]: { status: 422, body: { title: "The value does not fit", detail: "Goal: no number", status: 422 } },
  });
  fireEvent.click(await screen.findByTitle("Edit Goal"));
  const input = editor("Goal");
  fireEvent.change(input, { target: { value: "many" } });
  fireEvent.keyDown(input, { key: "Enter" });
  expect(await screen.findByText("Goal: no number")).toBeTruthy();
  const again = await screen.findByDisplayValue("many");
  all[`PATCH ${at}`] = { body: { changes: [], followed: [], odd: [], read: [] } };
  fireEvent.change(again, { target: { value: "12" } });
  fireEvent.keyDown(again, { key: "Enter" });
  await waitFor(() =>
    expect(asked.findLast((a) => a.key.startsWith("PATCH"))?.body).toEqual({ cells: { Goal: "12" } }),
  );
  await waitFor(() => expect(screen.queryByText("Goal: no number")).toBeNull());
  expect(asked.find((a) => a.key.startsWith("PATCH"))?.query).toBe("?pattern=p1");
});

it("leaves a field alone where nothing was changed, or Escape is pressed", async () => {
  const { asked } = open("editor");
  fireEvent.click(await screen.findByTitle("Edit Name"));
  fireEvent.keyDown(editor("Name"), { key: "Enter" });
  fireEvent.click(await screen.findByTitle("Edit Name"));
  fireEvent.change(editor("Name"), { target: { value: "Mill" } });
  fireEvent.keyDown(editor("Name"), { key: "Escape" });
  expect(await screen.findByTitle("Edit Name")).toBeTruthy();
  expect(asked.some((a) => a.key.startsWith("PATCH"))).toBe(false);
});

it("keeps what one is typing when the row is deleted under it, and says so", async () => {
  const { all, client } = open("editor");
  fireEvent.click(await screen.findByTitle("Edit Name"));
  fireEvent.change(editor("Name"), { target: { value: "Mill" } });
  all[`GET ${at}`] = { status: 404, body: { title: "Not found", detail: "There is no row r1", status: 404 } };
  await client.invalidateQueries();
  expect(await screen.findByText("There is no row r1")).toBeTruthy();
  expect((editor("Name") as HTMLInputElement).value).toBe("Mill");
});

const changed = { body: { changes: [], followed: [] } };
const patches = (asked: { key: string; body: unknown }[]) =>
  asked.filter((a) => a.key === `PATCH ${at}`).map((a) => a.body);

it("leaves alone what somebody else changed in a field that one only opened", async () => {
  const { all, asked, client } = open("editor", { [`PATCH ${at}`]: changed });
  fireEvent.click(await screen.findByTitle("Edit Name"));
  all[`GET ${at}`] = { body: { ...page, facts: { ...page.facts, Name: "South Pier" } } };
  await client.invalidateQueries();
  await screen.findByRole("heading", { name: "North Pier" });
  act(() => editor("Name").blur());
  expect(await screen.findByText("South Pier")).toBeTruthy();
  expect(patches(asked)).toEqual([]);
});

it("shows what somebody else made of a field before one's own takes its place", async () => {
  const { all, asked, client } = open("editor", { [`PATCH ${at}`]: changed });
  fireEvent.click(await screen.findByTitle("Edit Name"));
  fireEvent.change(editor("Name"), { target: { value: "Mill" } });
  all[`GET ${at}`] = { body: { ...page, title: "Anew", facts: { ...page.facts, Name: "South Pier" } } };
  await client.invalidateQueries();
  await screen.findByRole("heading", { name: "Anew" });
  fireEvent.keyDown(editor("Name"), { key: "Enter" });
  expect((await screen.findByRole("alert")).textContent).toContain("Someone else changed this to “South Pier”");
  expect(patches(asked)).toEqual([]);
  fireEvent.keyDown(editor("Name"), { key: "Enter" });
  await waitFor(() => expect(patches(asked)).toEqual([{ cells: { Name: "Mill" } }]));
});

it("keeps what is typed in a field over a reload", async () => {
  open("editor");
  fireEvent.click(await screen.findByTitle("Edit Name"));
  fireEvent.change(editor("Name"), { target: { value: "Mill" } });
  cleanup();
  open("editor");
  expect(((await screen.findByLabelText("Name", { selector: ".cell-editor" })) as HTMLInputElement).value).toBe("Mill");
  fireEvent.keyDown(editor("Name"), { key: "Escape" });
  expect(await screen.findByTitle("Edit Name")).toBeTruthy();
  expect(window.sessionStorage.length).toBe(0);
});

it("adds an entry whole, signed by oneself, and keeps a half-written one", async () => {
  const { asked } = open("editor", { [`POST ${at}/log`]: { body: { changes: [], followed: [] } } });
  const what = await screen.findByLabelText("What");
  fireEvent.click(await button("Add entry"));
  expect(await screen.findByText("What must not be blank")).toBeTruthy();
  fireEvent.change(what, { target: { value: "Walked through" } });
  expect(window.sessionStorage.getItem("kavlo draft 0 entry p1 r1")).toContain("Walked through");
  cleanup();
  const later = open("editor", { [`POST ${at}/log`]: { body: { changes: [], followed: [] } } });
  expect(await screen.findByDisplayValue("Walked through")).toBeTruthy();
  fireEvent.click(await button("Add entry"));
  await waitFor(() =>
    expect(later.asked.find((a) => a.key.startsWith("POST"))?.body).toEqual({
      cells: { What: "Walked through", Who: "ines@example.org" },
    }),
  );
  await waitFor(() => expect(window.sessionStorage.getItem("kavlo draft 0 entry p1 r1")).toBeNull());
  expect(asked.some((a) => a.key.startsWith("POST"))).toBe(false);
});

it("says that a page is archived, and that there is none", async () => {
  open("editor", { [`GET ${at}`]: { body: { ...page, archived: true, in: undefined, in_tracker: undefined } } });
  expect(await screen.findByText(/archived: the row was deleted/)).toBeTruthy();
  cleanup();
  open("editor", {
    [`GET ${at}`]: { status: 404, body: { title: "Page not found", detail: "the row has no page yet", status: 404 } },
  });
  expect(await screen.findByText("the row has no page yet")).toBeTruthy();
  expect(screen.getByText("All pages")).toBeTruthy();
});
