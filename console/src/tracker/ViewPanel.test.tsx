import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { App } from "antd";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Definition, Tab } from "../api/client";
import { service, tracker } from "../testing/page";
import { plain, type Arrangement } from "./arrangement";
import { ArrangedBy } from "./ArrangedBy";
import type { Arranged } from "./useArrangement";
import { ViewPanel } from "./ViewPanel";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const columns: Column[] = [
  { id: "c1", name: "Object", type: "text", bad_input: "mark" },
  { id: "c2", name: "Due", type: "date", bad_input: "mark" },
  { id: "c3", name: "Clerk", type: "person", bad_input: "mark" },
];
const tab: Tab = { id: "b1", name: "Open", label: "Object", rows: 0, overdue: 0, columns };
const soon: Definition = {
  id: "p1",
  kind: "view",
  name: "Soon",
  version: "v1",
  says: "",
  paused: false,
  watching: false,
  body: { name: "Soon", tab: "Open", order: "Due" },
};

function panel(arrangement: Arrangement, more: Partial<Arranged> = {}, mayKeep = true) {
  const arranged: Arranged = {
    arrangement,
    arrange: vi.fn(),
    begin: vi.fn(),
    views: [soon],
    view: undefined,
    changed: false,
    ...more,
  };
  const onSaved = vi.fn();
  render(
    <QueryClientProvider client={new QueryClient()}>
      <App>
        <ViewPanel
          tracker={tracker("admin")}
          tab={tab}
          arranged={arranged}
          frozen={1}
          mayKeep={mayKeep}
          onSaved={onSaved}
        />
      </App>
    </QueryClientProvider>,
  );
  return { ...arranged, onSaved };
}

it("hides columns, shows them again and puts them in order", () => {
  const { arrange } = panel({ ...plain, columns: ["Due", "Object"] });
  fireEvent.click(screen.getByRole("checkbox", { name: "Clerk" }));
  expect(arrange).toHaveBeenLastCalledWith({ columns: ["Due", "Object", "Clerk"] });
  fireEvent.click(screen.getByRole("checkbox", { name: "Due" }));
  expect(arrange).toHaveBeenLastCalledWith({ columns: ["Object"] });
  fireEvent.keyDown(screen.getByLabelText("Move Object"), { key: "ArrowUp", altKey: true });
  expect(arrange).toHaveBeenLastCalledWith({ columns: ["Object", "Due"] });
});

it("says nothing of columns where all are shown as the tab has them", () => {
  const { arrange } = panel({ ...plain, columns: ["Object", "Due"] });
  fireEvent.click(screen.getByRole("checkbox", { name: "Clerk" }));
  expect(arrange).toHaveBeenLastCalledWith({ columns: [] });
});

it("saves a view for everybody, and a changed one in its place", async () => {
  const set = { seq: 7, changes: [], followed: [] };
  const asked = service({
    "POST /api/v1/trackers/t1/views": { body: set },
    "PUT /api/v1/trackers/t1/views/p1": { body: set },
    "GET /api/v1/trackers/t1/views": { body: [soon] },
  });
  const first = panel({ ...plain, words: "bell", picks: { Clerk: ["a@example.org"] } });
  fireEvent.change(screen.getByLabelText("Name of the view"), { target: { value: " Bells " } });
  fireEvent.click(screen.getByText("Save for everyone"));
  await waitFor(() => expect(first.begin).toHaveBeenCalledWith("Bells"));
  expect(first.onSaved).toHaveBeenCalled();
  expect(asked.find((a) => a.key.startsWith("POST"))?.body).toEqual({
    name: "Bells",
    tab: "Open",
    words: "bell",
    where: '[Clerk] is "a@example.org"',
  });
  cleanup();
  const again = panel({ ...plain, frozen: 2 }, { view: soon, changed: true });
  fireEvent.click(screen.getByText("Reset to saved view"));
  expect(again.begin).toHaveBeenLastCalledWith("Soon");
  fireEvent.click(screen.getByText("Save changes for everyone"));
  await waitFor(() => expect(again.onSaved).toHaveBeenCalled());
  expect(asked.find((a) => a.key.startsWith("PUT"))?.body).toEqual({ name: "Soon", tab: "Open", frozen: 2 });
});

it("offers nobody to save who may not", () => {
  panel(plain, { view: soon, changed: true }, false);
  expect(screen.queryByText("Save for everyone")).toBeNull();
  expect(screen.queryByText("Delete view Soon")).toBeNull();
  expect(screen.getByText("Reset to saved view")).toBeTruthy();
});

it("says what rows are chosen and sorted by, each to be taken off", () => {
  const onArrange = vi.fn();
  const arrangement = {
    ...plain,
    words: "bell ",
    where: "Due before today",
    picks: { Clerk: ["a@example.org", "", "b@example.org", "c@example.org"] },
    order: [{ column: "Due", down: true }],
    columns: ["Object"],
  };
  render(
    <ArrangedBy
      arrangement={arrangement}
      columns={columns}
      names={new Map([["a@example.org", "Marta Quell"]])}
      onArrange={onArrange}
    />,
  );
  fireEvent.click(screen.getByLabelText("Remove: contains “bell”"));
  expect(onArrange).toHaveBeenLastCalledWith({ words: "" });
  fireEvent.click(screen.getByLabelText("Remove: Clerk: Marta Quell, blank, b@example.org and 1 more"));
  expect(onArrange).toHaveBeenLastCalledWith({ picks: {} });
  fireEvent.click(screen.getByLabelText("Remove: sorted by Due, descending"));
  expect(onArrange).toHaveBeenLastCalledWith({ order: [] });
  fireEvent.click(screen.getByLabelText("Remove: 2 columns hidden"));
  expect(onArrange).toHaveBeenLastCalledWith({ columns: [] });
  fireEvent.click(screen.getByText("Show all rows and columns"));
  expect(onArrange).toHaveBeenLastCalledWith({ ...plain, frozen: undefined });
});
