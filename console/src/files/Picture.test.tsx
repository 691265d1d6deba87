import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import type { ReadSheet } from "../api/client";
import { Picture } from "./Picture";

afterEach(cleanup);

const sheet: ReadSheet = {
  name: "Board",
  rows: 40,
  columns: 3,
  cells: [["A title"], [], ["", "Object", "Due"], ["", "Bell", "2026-03-01"], ["", "Horn", "TBC"], ["", "Total", ""]],
  left_out: [{ range: "A1", reason: "a single column of remarks" }],
  tables: [
    {
      range: "B3:C5",
      header_rows: 1,
      rows: 2,
      doubts: [],
      left_out: [{ range: "B6:C6", reason: "a total" }],
      columns: [
        { name: "Object", type: "text", reason: "", odd: [] },
        { name: "Due", type: "date", reason: "", odd: [{ cell: "C5", text: "TBC" }] },
      ],
    },
  ],
};

it("says of every cell what it was taken for", () => {
  render(<Picture sheet={sheet} />);
  const kind = (text: string) => screen.getByText(text).className;
  expect(kind("Object")).toBe("header");
  expect(kind("Bell")).toBe("row");
  expect(kind("TBC")).toBe("odd");
  expect(kind("Total")).toBe("left-out");
  expect(screen.getByText("A title").title).toBe("left out: a single column of remarks");
  expect(screen.getByText("TBC").title).toContain("does not fit date");
  expect(screen.getByText("The first 6 of 40 rows are shown.")).toBeTruthy();
});
