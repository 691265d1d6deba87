import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App } from "antd";
import { act, cleanup, render, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { service, type Answer } from "../testing/page";
import { column, row } from "../testing/samples";
import { Working } from "../parts/Working";
import { inParts, inRequests, largest } from "./bulk";
import { useBulk } from "./useBulk";
import type { CellEdit } from "./useEdits";

const stage = column("Stage");
const crate = column("Crate");
const edit = (id: string, value: unknown, of = stage): CellEdit => ({
  row: row(id, {}, { version: 3 }),
  column: of,
  value,
});
const many = (n: number, value: (i: number) => unknown) => Array.from({ length: n }, (_, i) => edit(`r${i}`, value(i)));

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("edits of very many cells", () => {
  it("are one request where all rows get the same", () => {
    const requests = inRequests(many(100_000, () => null));
    expect(requests).toHaveLength(1);
    expect(requests?.[0]?.cells).toEqual({ Stage: null });
    expect(requests?.[0]?.rows).toHaveLength(100_000);
  });

  it("are one for each that differs, of several columns too", () => {
    const edits = [edit("r1", "a"), edit("r1", 1, crate), edit("r2", 1, crate), edit("r2", "a"), edit("r3", "b")];
    expect(inRequests(edits)).toEqual([
      { rows: ["r1", "r2"], cells: { Stage: "a", Crate: 1 } },
      { rows: ["r3"], cells: { Stage: "b" } },
    ]);
  });

  it("go in parts where each row gets something of its own, no row in two", () => {
    const edits = many(largest + 1, (i) => `v${i}`);
    expect(inRequests(edits)).toBeUndefined();
    expect(inParts(edits).map((part) => part.length)).toEqual([largest, 1]);
    const wide = inParts([...edits.slice(0, largest - 1), edit("r9", 1, crate), edit("r", 1), edit("r", 2, crate)]);
    expect(wide.map((part) => part.length)).toEqual([largest, 2]);
    expect(wide[1]?.map((e) => e.value)).toEqual([1, 2]);
  });
});

const alike = "POST /api/v1/trackers/t1/rows/cells";
const set: Answer = { body: { changes: [], followed: [], counts: {} } };
const no: Answer = { status: 422, body: { title: "Not changed", detail: "Stage must not be blank", status: 422 } };

function open(answers: Record<string, Answer>) {
  const asked = service(answers);
  const done = { accepted: 0, refused: [] as unknown[] };
  let bulk: ReturnType<typeof useBulk> | undefined;
  function Page() {
    bulk = useBulk({
      tracker: "t1",
      settled: () => Promise.resolve(),
      accept: () => done.accepted++,
      refuse: (err) => done.refused.push(err),
    });
    return <Working working={bulk.working} says="Changing cells" />;
  }
  render(
    <QueryClientProvider client={new QueryClient()}>
      <App>
        <Page />
      </App>
    </QueryClientProvider>,
  );
  return {
    asked,
    done,
    begin: (edits: CellEdit[]) => bulk?.setAll(inRequests(edits) ?? []),
    setAll: (edits: CellEdit[]) => act(async () => bulk?.setAll(inRequests(edits) ?? [])),
    stop: () => bulk?.working.stop(),
  };
}

describe("sending them", () => {
  it("says how many were changed", async () => {
    const { asked, done, setAll } = open({ [alike]: set });
    await setAll(many(3000, () => "Agreed"));
    expect(asked.map((a) => a.key)).toEqual([alike]);
    expect(done).toEqual({ accepted: 1, refused: [] });
    expect(await screen.findByText("3,000 cells changed")).toBeTruthy();
  });

  it("says why they were refused, and which parts were saved before", async () => {
    const { done, setAll } = open({ [alike]: no });
    await setAll(many(3000, () => null));
    expect(done.refused).toHaveLength(1);
    expect(screen.queryByText(/parts were saved/)).toBeNull();
    cleanup();

    const some = open({ [alike]: set });
    let sent = 0;
    const all = globalThis.fetch;
    vi.stubGlobal("fetch", (r: Request) =>
      sent++ === 0 ? all(r) : Promise.resolve(Response.json(no.body, { status: 422 })),
    );
    await some.setAll(many(3000, (i) => i % 2));
    expect(some.done).toMatchObject({ accepted: 1 });
    expect(await screen.findByText(/1 of 2 parts were saved/)).toBeTruthy();
  });

  it("shows that it works, and stops", async () => {
    const { done, begin, stop } = open({});
    vi.stubGlobal(
      "fetch",
      (r: Request) =>
        new Promise((_, failed) => r.signal.addEventListener("abort", () => failed(new Error("aborted")))),
    );
    const over = begin(many(3000, () => null));
    await waitFor(() => expect(screen.getByRole("status").textContent).toContain("Changing cells"), { timeout: 3000 });
    act(stop);
    await act(async () => over);
    expect(done.refused).toEqual([]);
    expect(await screen.findByText("Stopped")).toBeTruthy();
  });
});
