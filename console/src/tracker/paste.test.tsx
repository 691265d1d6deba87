import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { api, type Tab, type Tracker } from "../api/client";
import { isPlain, planPaste, type Paste } from "./paste";
import { PasteDialog } from "./PasteDialog";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const columns = [column("Object"), column("Days left", { clause: "1", type: "number" }), column("Lender")];

it("goes into cells where all of it has a place", () => {
  const plan = planPaste([["a"], ["b"]], { row: 1, col: 2 }, 3, columns);
  expect(isPlain(plan)).toBe(true);
  expect(plan.cells.map((c) => [c.row, c.column.name, c.value])).toEqual([
    [1, "Lender", "a"],
    [2, "Lender", "b"],
  ]);
});

it("adds rows beyond the last one, and names what has no place", () => {
  const plan = planPaste(
    [
      ["a", "1", "x", "over", "over"],
      ["b", "2", "y"],
      ["", "", ""],
    ],
    { row: 2, col: 0 },
    3,
    columns,
  );
  expect(plan.cells.map((c) => c.value)).toEqual(["a", "x"]);
  expect(plan.added).toEqual([{ Object: "b", Lender: "y" }]);
  expect(plan.beyond).toBe(2);
  expect(plan.fixed).toEqual(["Days left"]);
});

function open(plan: Paste, mayAdd = true) {
  const edits = { accept: vi.fn(), setMany: vi.fn() };
  const onClose = vi.fn();
  render(
    <QueryClientProvider client={new QueryClient()}>
      <PasteDialog
        tracker={{ id: "t1" } as Tracker}
        tab={{ id: "b1", name: "Requested" } as Tab}
        plan={plan}
        cells={[]}
        edits={edits}
        mayAdd={mayAdd}
        onClose={onClose}
      />
    </QueryClientProvider>,
  );
  return { edits, onClose };
}

const plan: Paste = { cells: [], added: [{ Object: "b" }], beyond: 1, fixed: ["Days left"] };

it("says what it would do before it does it, and why where it is refused", async () => {
  const post = vi.spyOn(api, "POST").mockResolvedValue({
    error: { status: 422, title: "Refused", detail: "Object must be unique" },
    response: new Response(null, { status: 422 }),
  } as never);
  const { edits, onClose } = open(plan);
  expect(screen.getByText("1 column goes beyond the last one and is left out.")).toBeDefined();
  expect(screen.getByText(/Skipped.*Days left/)).toBeDefined();
  fireEvent.click(screen.getByText("Paste and add 1 row"));
  expect(await screen.findByText("Object must be unique")).toBeDefined();
  expect(onClose).not.toHaveBeenCalled();
  post.mockResolvedValue({ data: { seq: 4, changes: [], followed: [] }, response: new Response() } as never);
  fireEvent.click(screen.getByText("Paste and add 1 row"));
  await waitFor(() => expect(onClose).toHaveBeenCalled());
  expect(edits.accept).toHaveBeenCalledWith({ seq: 4, changes: [], followed: [] });
});

it("adds nothing for whoever may not", () => {
  open(plan, false);
  expect(screen.getByText(/you may not add rows here/)).toBeDefined();
  expect(screen.getByText("Paste").closest("button")).toHaveProperty("disabled", true);
});
