import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App } from "antd";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { createMemoryRouter, RouterProvider } from "react-router";
import type { Column, Definition, Tracker } from "../api/client";
import RulesPage from "../rules/RulesPage";
import { columnsFor, isFixed, mayAdd, mayImport, mayOf } from "./may";

afterEach(cleanup);

const column = (more: Partial<Column>): Column => ({
  id: "c1",
  name: "Fee",
  type: "number",
  bad_input: "mark",
  ...more,
});
const tab = { id: "b1", name: "Requested", label: "Object", rows: 0, overdue: 0 };
const tracker = (role: Tracker["role"]): Tracker => ({
  id: "t1",
  name: "Loans",
  zone: "UTC",
  version: 1,
  role,
  tabs: [{ ...tab, columns: [column({})] }],
});

it.each([
  [undefined, false, false],
  ["reader", false, false],
  ["editor", true, false],
  ["admin", true, true],
])("a role of %s", (role, edit, keep) => {
  expect(mayOf(role)).toEqual({ edit, keep });
});

it("leaves computed and read-only cells alone, and all cells of a read-only tab", () => {
  expect([column({}), column({ clause: "Fee * 2" }), column({ read_only: true })].map(isFixed)).toEqual([
    false,
    true,
    true,
  ]);
  const open = { ...tab, columns: [column({})] };
  expect(columnsFor(open).map(isFixed)).toEqual([false]);
  expect(columnsFor({ ...open, read_only: true }).map(isFixed)).toEqual([true]);
  expect(mayAdd(tracker("editor"), open)).toBe(true);
  expect(mayAdd(tracker("editor"), { ...open, read_only: true })).toBe(false);
  expect(mayAdd(tracker("reader"), open)).toBe(false);
});

it("takes files in where one may make a tracker or change one", () => {
  expect(mayImport("admin", [])).toBe(true);
  expect(mayImport("editor", [tracker("reader")])).toBe(false);
  expect(mayImport("reader", [tracker("reader"), tracker("editor")])).toBe(true);
});

const definition = (kind: Definition["kind"]): Definition => ({
  id: kind,
  kind,
  name: `A ${kind}`,
  version: "v1",
  says: `what the ${kind} does`,
  body: {},
});

function rulesAs(role: Tracker["role"]) {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  queries.setQueryData(["session"], { person: { id: 1, name: "Ada", address: "ada@example.org", access: "reader" } });
  queries.setQueryData(["trackers"], [tracker(role)]);
  for (const kind of ["rule", "reminder", "round"] as const)
    queries.setQueryData([`${kind}s`, "t1"], [definition(kind)]);
  const router = createMemoryRouter([{ path: "/t/:tracker/rules", element: <RulesPage /> }], {
    initialEntries: ["/t/t1/rules"],
  });
  render(
    <App>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </App>,
  );
  expect(screen.getByText("what the rule does")).toBeTruthy();
  return screen.queryAllByRole("button").map((b) => b.textContent);
}

it("offers on the page of rules what one's role in the tracker lets one do", () => {
  expect(rulesAs("reader")).toEqual([]);
  cleanup();
  expect(rulesAs("editor")).toEqual(["Preview"]);
  cleanup();
  expect(rulesAs("admin")).toEqual(["New rule", "Copy", "Pause", "Preview"]);
});
