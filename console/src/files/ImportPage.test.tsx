import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Tab } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import ImportPage from "./ImportPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const asked: Tab = {
  id: "b1",
  name: "Asked",
  label: "Object",
  columns: ["Object", "Due"].map((name) => column(name)),
  rows: 0,
  overdue: 0,
};
const table = {
  range: "A1:B3",
  header_rows: 1,
  rows: 2,
  left_out: [],
  doubts: [],
  columns: [
    { name: "Object", type: "text", reason: "texts", odd: [] },
    { name: "Due", type: "date", reason: "dates", odd: [], day_order: "day first" },
  ],
};
const reading = {
  file: "more.csv",
  sheets: [{ name: "", rows: 3, cells: [["Object"]], left_out: [], tables: [table] }],
};
const done = {
  changes: [],
  followed: [],
  counts: {},
  detail: { tables: [{ tab: "Asked", rows: 2, taken: { added: 2, updated: 0, unchanged: 0, odd: 0 } }] },
};

function open(more: Record<string, Answer>, role: "admin" | "reader" = "admin") {
  const loans = tracker(role, { tabs: [asked] });
  const all = service({
    "GET /api/v1/trackers": { body: [loans] },
    "POST /api/v1/readings": { body: reading },
    ...more,
  });
  openPage(<ImportPage />, "/import", "/import", loans);
  if (role === "reader") return all;
  const input = document.querySelector<HTMLInputElement>("input[type=file]");
  if (!input) throw new Error("there is a field for a file");
  fireEvent.change(input, { target: { files: [new File(["x"], "more.csv")] } });
  return all;
}
const told = (query: string): unknown => JSON.parse(new URLSearchParams(query).get("corrections") ?? "[]");

it("knows a file that looks like a tab, and imports it there matched by its key", async () => {
  const all = open({ "POST /api/v1/trackers/t1/imports": { body: done } });
  fireEvent.click(await screen.findByText("Import into Asked, matched by Object"));
  fireEvent.click(screen.getByText("Preview"));
  expect(await screen.findByText(/Asked: 2 rows added/)).toBeTruthy();
  const query = all.find((a) => a.key.endsWith("/imports"))?.query ?? "";
  expect(told(query)).toEqual([{ sheet: "", table: 1, tab: "Asked", key: "Object", columns: [] }]);
  expect(query).toContain("preview=yes");
});

it("renames a column, and reads its dates the other way round", async () => {
  const all = open({});
  const name = await screen.findByLabelText("Name of Object");
  fireEvent.change(name, { target: { value: "Thing" } });
  fireEvent.blur(name);
  fireEvent.mouseDown(screen.getByLabelText("Dates of Due"));
  fireEvent.click(screen.getByTitle("month first: 03/04 is 4 March"));
  await waitFor(() =>
    expect(told(all.filter((a) => a.key === "POST /api/v1/readings").at(-1)?.query ?? "")).toEqual([
      {
        sheet: "",
        table: 1,
        columns: [
          { column: 1, name: "Thing" },
          { column: 2, day_order: "month first" },
        ],
      },
    ]),
  );
});

it("says what refuses an import, and keeps what was said", async () => {
  open({
    "POST /api/v1/trackers/more/imports": {
      status: 409,
      body: { title: "Conflict", detail: "more already exists", status: 409 },
    },
  });
  fireEvent.click((await screen.findByText("Import", { selector: "button span" })).closest("button") ?? document.body);
  expect(await screen.findByText("more already exists")).toBeTruthy();
  expect(screen.getByLabelText("Name of Object")).toBeTruthy();
});

it("is for those who may import", async () => {
  open({}, "reader");
  expect(await screen.findByText(/ask an admin/)).toBeTruthy();
});
