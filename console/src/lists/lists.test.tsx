import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Row, Tab } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { cursorAs, listLacks, pairs, sourceOf, syncLacks, withFrom } from "./body";
import ListPage from "./ListPage";
import ListsPage from "./ListsPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.sessionStorage.clear();
});

const lenders: Tab = {
  id: "b1",
  name: "Lenders",
  label: "",
  columns: ["Lender no", "Name", "Country", "Insured until", "Remarks"].map((name) => column(name)),
  rows: 0,
  overdue: 0,
};
const loans = tracker("admin", { tabs: [lenders] });
const sample = {
  total: 36,
  items: "/records",
  id: "id",
  fields: ["id", "name", "address/country", "policy/end", "contact"].map((at) => ({
    at,
    samples: [`${at} 1`],
    filled: 36,
  })),
};
const base = "/api/v1/trackers/t1";
const register = {
  id: "p1",
  kind: "list",
  name: "Register",
  says: "Records at …",
  body: { name: "Register", from: { http: "http://lists.example.org/lenders" } },
};
const sync = {
  id: "p2",
  kind: "sync",
  name: "Lenders",
  says: "Daily.",
  body: {
    name: "Lenders",
    list: "Register",
    tab: "Lenders",
    key: { "Lender no": "id" },
    fields: { Name: "name" },
    clock: "daily at 6:00",
  },
};

function open(at: string, more: Record<string, Answer> = {}) {
  const asked = service({
    "GET /api/v1/trackers": { body: [loans] },
    [`GET ${base}/lists`]: { body: [register] },
    [`GET ${base}/syncs`]: { body: [sync] },
    [`GET ${base}/conflicts`]: { body: [] },
    [`GET ${base}/tabs/b1/rows`]: { body: { rows: [] } },
    [`GET ${base}/lists/p1`]: { body: register },
    [`GET ${base}/syncs/p2`]: { body: sync },
    [`POST ${base}/try/list`]: { body: { says: "Records.", rows: [], passed_over: [] } },
    [`POST ${base}/try/sync`]: { body: { says: "Daily.", rows: [], passed_over: [] } },
    [`POST ${base}/try/list/records`]: { body: sample },
    ...more,
  });
  const one = /\/lists\/(list|sync)\//.test(at);
  const { router } = openPage(
    one ? <ListPage /> : <ListsPage />,
    one ? "/t/:tracker/lists/:kind/:definition" : "/t/:tracker/lists",
    at,
    loans,
  );
  return { asked, router };
}

it("pairs fields with columns by their names, and the key by what tells records apart", () => {
  expect(pairs(lenders, sample)).toEqual({
    key: { "Lender no": "id" },
    fields: { Name: "name", Country: "address/country" },
  });
  expect(pairs(lenders, { ...sample, id: undefined })).toEqual({
    key: {},
    fields: { Name: "name", Country: "address/country" },
  });
  expect(pairs({ ...lenders, columns: [column("ID"), column("Contact")] }, sample)).toEqual({
    key: { ID: "id" },
    fields: { Contact: "contact" },
  });
});

it("pairs by values that both sides have where the names say nothing", () => {
  const rows = [" Contact 1 ", "y", "x"].map((v, n) => ({ id: `r${n}`, cells: { Remarks: v } }) as unknown as Row);
  expect(pairs(lenders, sample, rows).fields).toEqual({
    Name: "name",
    Country: "address/country",
    Remarks: "contact",
  });
  expect(pairs(lenders, sample, rows.slice(1)).fields).not.toHaveProperty("Remarks");
});

it("pairs a field by dragging it onto a column, or by pressing both", async () => {
  const { asked, router } = open("/t/t1/lists/sync/p2", {
    [`PUT ${base}/syncs/p2`]: { body: { changes: [], followed: [], seq: 2 } },
  });
  const left = within(await screen.findByRole("group", { name: "Fields not in sync" }));
  const free = within(screen.getByRole("group", { name: "Columns not in sync" }));
  const shown = () => left.getAllByRole("button").map((b) => b.textContent);
  expect(shown()).toEqual(["address/country", "policy/end", "contact"]);
  const dataTransfer = { setData: () => undefined, effectAllowed: "" };
  fireEvent.dragStart(left.getByText("policy/end").closest("button") ?? document.body, { dataTransfer });
  fireEvent.dragOver(free.getByText("Insured until").closest("button") ?? document.body, { dataTransfer });
  fireEvent.drop(free.getByText("Insured until").closest("button") ?? document.body, { dataTransfer });
  expect(shown()).toEqual(["address/country", "contact"]);
  expect((free.getByText("Remarks").closest("button") as HTMLButtonElement).disabled).toBe(true);
  fireEvent.click(left.getByText("contact"));
  fireEvent.click(free.getByText("Remarks"));
  fireEvent.click(screen.getByText("Save"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/lists"));
  expect(asked.find((a) => a.key.startsWith("PUT"))?.body).toMatchObject({
    fields: { Name: "name", "Insured until": "policy/end", Remarks: "contact" },
  });
});

it("names what lists and syncs lack", () => {
  expect(listLacks({ from: { http: "" } })).toEqual(["a name", "where the records are"]);
  expect(listLacks(register.body)).toEqual([]);
  expect(syncLacks({})).toEqual(["a name", "a list", "a tab", "the key that both sides have", "at least one field"]);
  expect(syncLacks(sync.body)).toEqual([]);
  expect(sourceOf({ from: { file: "x.csv" } })).toBe("file");
  expect(withFrom(register.body, { items: "/records" }).from).toEqual({
    http: "http://lists.example.org/lenders",
    items: "/records",
  });
});

it("looks at what a list holds, and warns of a secret that all would see", async () => {
  const { asked } = open("/t/t1/lists/list/p1");
  fireEvent.click(await screen.findByText("Look at the list"));
  expect(await screen.findByText("36 records")).toBeTruthy();
  expect(screen.getByText("/records")).toBeTruthy();
  expect(screen.getByText("address/country")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Token"), { target: { value: "abc123" } });
  expect((await screen.findByRole("alert")).textContent).toContain("Everybody who reads the setup sees this");
  fireEvent.change(screen.getByLabelText("Token"), { target: { value: "${REGISTER}" } });
  await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  expect(asked.find((a) => a.key.endsWith("/records"))?.body).toEqual({ body: register.body, replaces: "p1" });
});

it("says how many pages were fetched, and takes what was found with one click", async () => {
  const { asked } = open("/t/t1/lists/list/p1", {
    [`POST ${base}/try/list/records`]: { body: { ...sample, pages: 1, offers: "cursor", cursor: "/meta/next_cursor" } },
  });
  fireEvent.click(await screen.findByText("Look at the list"));
  expect(await screen.findByText("36 records on 1 page")).toBeTruthy();
  fireEvent.click(screen.getByText("Fetch every page"));
  await waitFor(() => expect(screen.getByLabelText("Paging: cursor at")).toHaveProperty("value", "/meta/next_cursor"));
  fireEvent.click(screen.getByText("Take records from there"));
  fireEvent.click(screen.getByText("Use as the id"));
  await waitFor(() => expect(screen.queryByText("Use as the id")).toBeNull());
  const looked = asked.filter((a) => a.key.endsWith("/try/list/records")).at(-1)?.body;
  expect(looked).toMatchObject({
    body: {
      from: { items: "/records", id: "id", next: { cursor: "/meta/next_cursor", as: "cursor" } },
    },
  });
});

it("guesses by which parameter a page is asked for", () => {
  expect(["/next", "/next_cursor", "/nextPageToken", "/meta/cursor"].map(cursorAs)).toEqual([
    "after",
    "cursor",
    "pageToken",
    "cursor",
  ]);
});

it("pairs a sync by name, and saves it", async () => {
  const { asked, router } = open("/t/t1/lists/sync/p2", {
    [`PUT ${base}/syncs/p2`]: { body: { changes: [], followed: [], seq: 2 } },
  });
  fireEvent.click(await screen.findByText("Pair fields"));
  expect(await screen.findByText("address/country (address/country 1)")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Change limit in percent"), { target: { value: "25" } });
  fireEvent.blur(screen.getByLabelText("Change limit in percent"));
  fireEvent.click(screen.getByText("Save"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/lists"));
  expect(asked.find((a) => a.key.startsWith("PUT"))?.body).toMatchObject({
    guard: "25%",
    fields: { Country: "address/country" },
  });
});

it("says when a list does not answer, and leads to what can be made", async () => {
  open("/t/t1/lists/list/p1", {
    [`POST ${base}/try/list/records`]: {
      status: 422,
      body: { title: "Request refused", detail: "it does not answer", status: 422 },
    },
  });
  fireEvent.click(await screen.findByText("Look at the list"));
  expect(await screen.findByText("it does not answer")).toBeTruthy();
  cleanup();
  const { router } = open("/t/t1/lists");
  fireEvent.click(await screen.findByText("New sync"));
  fireEvent.click(await screen.findByRole("button", { name: "Start empty" }));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/lists/sync/new"));
});

it("previews both sides of a sync as it is edited", async () => {
  const writes = [{ kind: "add", key: "L-9", fields: [{ column: "Name", after: "Quay" }] }];
  const { asked } = open("/t/t1/lists/sync/p2", {
    [`POST ${base}/try/sync/preview`]: {
      body: { changes: [], followed: [], passed_over: [], counts: {}, sync: { writes } },
    },
  });
  fireEvent.click(await screen.findByText("Pair fields"));
  fireEvent.click(await screen.findByText("Preview both sides"));
  expect(await screen.findByText("Changes to the list")).toBeTruthy();
  expect(screen.getByText("L-9")).toBeTruthy();
  expect(screen.getByText("Preview only. No changes made.")).toBeTruthy();
  const body = asked.find((a) => a.key === `POST ${base}/try/sync/preview`)?.body;
  expect(body).toMatchObject({ replaces: "p2", body: { fields: { Country: "address/country" } } });
});
