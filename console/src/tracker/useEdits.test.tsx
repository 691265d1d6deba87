import { App } from "antd";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import type { Column, Row } from "../api/client";
import { api } from "../api/client";
import { leave } from "./editQueues";
import { forget, storeOf } from "./stores";
import { Unsaved } from "./Unsaved";
import { useEdits, type CellEdit, type Edits } from "./useEdits";

beforeEach(() => {
  localStorage.clear();
  vi.stubGlobal(
    "EventSource",
    class {
      addEventListener() {}
      close() {}
    },
  );
});

afterEach(() => {
  cleanup();
  leave();
  forget();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const due: Column = { id: "c1", name: "Due", type: "date", bad_input: "mark" };
const bell = { id: "r1", version: 1, tab_id: "b1", tab: "Requested", label: "Bell", pos: 1, cells: {} } as Row;

// A service that refuses everything, for a reason.
function refusing(why: string) {
  const sent: unknown[] = [];
  vi.spyOn(api, "PATCH").mockImplementation(((_: string, { body }: { body: unknown }) => {
    sent.push(body);
    return Promise.resolve({ error: { status: 422, title: "Refused", detail: why }, response: new Response() });
  }) as never);
  return sent;
}

function Page({ onReady }: { onReady: (edits: Edits) => void }) {
  const edits = useEdits("t1", storeOf("t1"));
  onReady(edits);
  return <Unsaved edits={edits} />;
}

function open(person: number) {
  const queries = new QueryClient();
  queries.setQueryData(["session"], { person: { id: person, name: "Ada" } });
  let edits: Edits | undefined;
  render(
    <QueryClientProvider client={queries}>
      <App>
        <Page onReady={(e) => (edits = e)} />
      </App>
    </QueryClientProvider>,
  );
  return {
    set: (e: CellEdit) => act(() => edits?.set(e)),
    setMany: (all: CellEdit[]) => act(() => edits?.setMany(all)),
  };
}

it("shows what was refused, and why, until its writer has another way", async () => {
  const sent = refusing("at most 12 characters");
  const { set } = open(1);
  set({ row: bell, column: due, value: "much too long" });
  expect(await screen.findByText("at most 12 characters")).toBeDefined();
  fireEvent.change(screen.getByLabelText("Not saved: Bell: Due"), { target: { value: "short" } });
  vi.spyOn(api, "PATCH").mockImplementation(((_: string, { body }: { body: unknown }) => {
    sent.push(body);
    return Promise.resolve({ data: { changes: [], followed: [], rows: [] }, response: new Response() });
  }) as never);
  fireEvent.click(screen.getByText("Retry"));
  await waitFor(() => expect(screen.queryByText("Not saved")).toBeNull());
  expect(sent).toEqual([
    { edits: [{ row: "r1", version: 1, cells: { Due: "much too long" } }] },
    { edits: [{ row: "r1", version: 1, cells: { Due: "short" } }] },
  ]);
});

it("keeps what was refused over a reload, for its writer alone", async () => {
  refusing("no");
  const { set } = open(1);
  set({ row: bell, column: due, value: "mine" });
  await screen.findByText("no");
  cleanup();
  leave();
  open(2);
  expect(screen.queryByText("Not saved")).toBeNull();
  cleanup();
  leave();
  open(1);
  expect(screen.getByLabelText("Not saved: Bell: Due")).toHaveProperty("value", "mine");
  fireEvent.click(screen.getByText("Discard"));
  expect(screen.queryByText("Not saved")).toBeNull();
});

it("keeps all cells of a large paste in their places where it is refused", async () => {
  const sent = refusing("at most 12 characters");
  const cells = Array.from({ length: 12_000 }, (_, i) => ({ ...bell, id: `r${i}` }));
  open(1).setMany(cells.map((row, i) => ({ row, column: due, value: `text ${i}` })));
  await waitFor(() => expect(sent).toHaveLength(2));
  expect(await screen.findAllByText("at most 12 characters")).toHaveLength(2);
  const typed = (id: string) => storeOf("t1").typedInto(id, "Due");
  expect([typed("r0"), typed("r11999")]).toEqual([
    { text: "text 0", why: "at most 12 characters" },
    { text: "text 11999", why: "at most 12 characters" },
  ]);
});
