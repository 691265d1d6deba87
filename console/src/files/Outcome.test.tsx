import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import type { ChangeSet } from "../api/client";
import { Outcome, type Imported } from "./Outcome";

afterEach(cleanup);

const table = {
  sheet: "May",
  tab: "Board",
  rows: 3,
  new_columns: ["Fee"],
  left_out: [{ range: "B9:C9", reason: "a total" }],
  taken: {
    added: 1,
    updated: 1,
    unchanged: 1,
    odd: 0,
    kept: 2,
    held: [{ label: "Bell", column: "Hall", here: "", file: "Quay" }],
    troubles: [{ where: "May, row 7", why: "its key is blank" }],
  },
};

const detail: Imported = { tables: [table], left_out: [{ sheet: "Notes", range: "A1:A4", reason: "remarks" }] };

function show(detail: Imported, preview = true, changes: unknown[] = []) {
  render(<Outcome set={{ changes, detail } as unknown as ChangeSet} preview={preview} />);
}

it("names what was held, not imported and ignored", () => {
  show(detail);
  for (const text of [
    "Preview only. No changes made.",
    "Board: 1 row added, 1 updated, 1 unchanged, 2 cells kept as edited here; new columns: Fee",
    "Hall of Bell is blank here and Quay in the file",
    "May, row 7: its key is blank",
    "Notes A1:A4: remarks",
    "May B9:C9: a total",
  ])
    expect(screen.getByText(text)).toBeTruthy();
});

it("shows each cell that would change, before and after, and not once it has", () => {
  const change = { kind: "set", label: "Horn", tab: "Board", column: "Fee", before: 7, after: 8, because: "" };
  show(detail, true, [change]);
  expect(screen.getByText("Fee set")).toBeTruthy();
  cleanup();
  show(detail, false, [change]);
  expect(screen.getByText("Imported.")).toBeTruthy();
  expect(screen.queryByText("Fee set")).toBeNull();
});

it("says no more than there is", () => {
  show({ tables: [{ tab: "Board", rows: 1, taken: { added: 1, updated: 0, unchanged: 0, odd: 0 } }] });
  expect(screen.getByText("Board: 1 row added, 0 updated, 0 unchanged")).toBeTruthy();
  expect(screen.queryByText("Ignored")).toBeNull();
});
