import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { ReadSheet } from "../api/client";
import { openPage, service, tracker } from "../testing/page";
import { PlacePicker, roomy } from "./PlacePicker";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const sheet = (name: string): ReadSheet => ({
  name,
  rows: 1,
  columns: 2,
  cells: [["Object", "Due"]],
  tables: [],
  left_out: [],
});

it("draws room beside and below what a sheet holds", () => {
  const drawn = roomy(sheet("Plan"));
  expect(drawn.cells).toHaveLength(30);
  expect(drawn.cells[0]?.slice(0, 3)).toEqual(["Object", "Due", ""]);
  expect(roomy({ ...sheet("Plan"), cells: Array.from({ length: 40 }, () => ["x"]), rows: 90 }).cells).toHaveLength(40);
});

it("picks a sheet and a cell of a workbook that is there", async () => {
  const file = { path: "outbound/plan.xlsx", at: "2026-03-01T08:00:00Z", rule: "Plan", rows: 2 };
  const asked = service({
    "GET /api/v1/trackers/t1/outbound": { body: [file, { ...file, path: "outbound/old.xlsx", gone: true }] },
    "POST /api/v1/readings": { body: { file: "plan.xlsx", sheets: [sheet("Plan"), sheet("Notes")] } },
  });
  const ask = globalThis.fetch; // files come as they are, others as the service answers
  vi.stubGlobal("fetch", (to: Request | string) =>
    typeof to === "string" ? Promise.resolve(new Response("a workbook")) : ask(to),
  );
  const onPick = vi.fn();
  openPage(<PlacePicker tracker="t1" onPick={onPick} />, "*", "/", tracker("admin"));
  fireEvent.click(screen.getByText("Pick the place"));
  fireEvent.mouseDown(await screen.findByLabelText("Workbook"));
  expect(screen.queryByTitle("outbound/old.xlsx")).toBeNull();
  fireEvent.click(await screen.findByTitle("outbound/plan.xlsx"));
  fireEvent.click(await screen.findByText("Notes"));
  fireEvent.click((await screen.findAllByLabelText("Cell B4")).at(-1) ?? document.body);
  fireEvent.click(await screen.findByText("Write from B4 of Notes"));
  expect(onPick).toHaveBeenCalledWith({ sheet: "Notes", at: "B4" });
  expect(asked.some((a) => a.key === "POST /api/v1/readings" && a.query.includes("plan.xlsx"))).toBe(true);
});
