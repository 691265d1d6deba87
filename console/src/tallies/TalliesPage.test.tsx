import { cleanup, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Tally, Tracker } from "../api/client";
import { openPage, service, tracker } from "../testing/page";
import TalliesPage from "./TalliesPage";
import { change, said } from "./TallyCard";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const tally: Tally = {
  id: "p7",
  name: "Worth by venue",
  says: "Worth of rows in On display.",
  draw: "bar",
  show: "Worth",
  drawn: true,
  by: ["Venue"],
  figures: [
    { name: "Worth", type: "number", format: "EUR" },
    { name: "Part", type: "number", format: "percent" },
  ],
  groups: [
    { group: ["Annex"], values: { Worth: 1200, Part: 0.25 }, before: { Worth: 1000, Part: 0.25 } },
    { group: ["(blank)"], values: { Worth: null, Part: 0.75 }, odd: { Worth: "too large" } },
  ],
  others: { group: ["3 others"], values: { Worth: 5, Part: 0 } },
  hidden: 3,
  total: { group: [], values: { Worth: 9000, Part: 1 } },
  compared_with: "2026-03-18T23:59:59Z",
  skipped: 4,
  passed_over: [{ row: "r1", label: "Bell", tab: "On display", why: "Arrived is not a date" }],
};

const at = "GET /api/v1/trackers/t1/tallies-now";

function open(tallies: Tally[], more: Partial<Tracker> = {}) {
  const shown = tracker("reader", more);
  service({ [at]: { body: tallies }, "GET /api/v1/trackers": { body: [shown] } });
  openPage(<TalliesPage />, "/t/:tracker/tallies", "/t/t1/tallies", shown);
}

it("draws a tally beside its table, with what has moved, what failed, and what was skipped", async () => {
  open([tally]);
  const picture = await screen.findByAltText("Worth by Venue, as in the table");
  expect(picture.getAttribute("src")).toContain("/tallies/p7/picture?theme=light");
  for (const text of [
    "▲ 200",
    "25 %",
    "unchanged",
    "too large",
    "3 others",
    "Total",
    "4 rows skipped: Bell in On display (Arrived is not a date) …",
  ])
    expect(screen.getByText(text)).toBeTruthy();
  const table = document.querySelector(".tally-table")?.textContent ?? "";
  for (const money of ["1\u202f200.00 EUR", "9\u202f000.00 EUR"]) expect(table).toContain(money);
});

it("writes days and numbers as the tracker does", async () => {
  open([{ ...tally, draw: "number" }], { dates: "31.03.2026", numbers: "1.234,5", zone: "Asia/Tokyo" });
  // the 18th at midnight is the 19th in Tokyo
  expect(await screen.findByTitle("on 19.03.2026: 1.000,00 EUR")).toBeTruthy();
  expect(screen.getByText("9.000,00 EUR", { selector: "td" })).toBeTruthy();
});

it("shows numbers with their trend, and why nothing is compared", async () => {
  open([
    {
      ...tally,
      draw: "number",
      by: [],
      groups: [{ group: [], values: { Worth: 7, Part: 1 }, before: { Worth: 9, Part: 1 } }],
      others: undefined,
      not_compared: "the tracker was not there yet",
    },
  ]);
  expect(await screen.findByText(/▼ 2 since/)).toBeTruthy();
  expect(screen.getByText("Not compared: the tracker was not there yet.")).toBeTruthy();
  expect(screen.queryByRole("img")).toBeNull();
});

it("says that nothing is counted, and that nothing is set up", async () => {
  open([{ ...tally, groups: [], others: undefined, drawn: false, skipped: 0 }]);
  expect(await screen.findByText("No rows are counted.")).toBeTruthy();
  cleanup();
  open([]);
  expect(await screen.findByText(/No charts yet/)).toBeTruthy();
});

it("writes figures and changes", () => {
  expect(said({ name: "x", type: "number" }, { x: null })).toBe("–");
  expect(said({ name: "x", type: "date" }, { x: "2026-03-01" })).toBe("2026-03-01");
  expect(change(1, undefined)).toBe("");
  expect(change("a", "b")).toBe("");
  expect(change(0.3, 0.1)).toBe("▲ 0.2");
});
