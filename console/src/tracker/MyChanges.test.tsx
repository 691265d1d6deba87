import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App } from "antd";
import { act, cleanup, fireEvent, render, renderHook, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { api } from "../api/client";
import { MyChanges } from "./MyChanges";
import type { Mine } from "./undoing";
import { useUndo } from "./useUndo";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const at = "2026-11-27T08:00:00Z";
const mine: Mine[] = [
  { seq: 9, says: "undo of change set 7", at, undoes: 7 },
  { seq: 8, says: "moved Lens to Agreed", at },
  { seq: 7, says: "added column Crate", at, undone: 9 },
  { seq: 5, says: "imported 12 rows", at },
];

function service(blocked: number[]) {
  const undone: string[] = [];
  vi.spyOn(api, "GET").mockImplementation(((path: string) =>
    Promise.resolve({ data: path.endsWith("journal") ? mine : [], response: new Response() })) as never);
  vi.spyOn(api, "POST").mockImplementation(((_: string, { params }: { params: { path: { what: string } } }) => {
    const { what } = params.path;
    undone.push(what);
    return Promise.resolve(
      blocked.includes(Number(what))
        ? {
            error: { status: 409, title: "Blocked", detail: "later", conflicts: ["Stage of Lens: Marta Quell"] },
            response: new Response(null, { status: 409 }),
          }
        : { data: { changes: [], followed: [] }, response: new Response() },
    );
  }) as never);
  return undone;
}

const wrapper = ({ children }: { children: React.ReactNode }) => (
  <QueryClientProvider client={new QueryClient()}>
    <App>{children}</App>
  </QueryClientProvider>
);

it("lists each change once, whether it stands, with what can be done", async () => {
  service([]);
  const undoOne = vi.fn().mockResolvedValue(undefined);
  render(<MyChanges tracker="t1" onUndo={undoOne} />, { wrapper });
  expect((await screen.findByText("added column Crate")).tagName).toBe("S");
  expect(screen.getAllByRole("listitem")).toHaveLength(3);
  fireEvent.click(screen.getByText("Redo this change"));
  await waitFor(() => expect(undoOne).toHaveBeenCalledWith(mine[0]));
  fireEvent.click(screen.getAllByText("Undo this change")[1] as HTMLElement);
  await waitFor(() => expect(undoOne).toHaveBeenCalledWith(mine[3]));
});

it("passes over what later changes block, and says by what", async () => {
  const undone = service([8]);
  const take = vi.fn();
  const { result } = renderHook(() => useUndo({ tracker: "t1", settled: () => Promise.resolve(), take }), { wrapper });
  await act(() => result.current.undo());
  expect(undone).toEqual(["8", "5"]);
  expect(take).toHaveBeenCalledTimes(1);
  expect(await screen.findByText("imported 12 rows")).toBeDefined();
  expect(screen.getByText(/Skipped: moved Lens to Agreed.*Stage of Lens: Marta Quell/)).toBeDefined();
  await act(() => result.current.redo());
  expect(undone).toEqual(["8", "5", "9"]);
});
