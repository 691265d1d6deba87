import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker } from "../testing/page";
import { newTally, readBy, readFigure, tallyLacks, writeBy, writeFigure } from "./body";
import ChartPage from "./ChartPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.sessionStorage.clear();
});

const columns = [column("Object"), column("Venue", "choice"), column("Arrived on", "date"), column("Value", "number")];
const loans = tracker("admin", { tabs: [{ id: "b1", name: "Loans", label: "", columns, rows: 0, overdue: 0 }] });
const base = "/api/v1/trackers/t1";
const body = {
  name: "Worth",
  of: "Loans",
  by: ["Venue"],
  figures: { Objects: "count", Worth: "sum Value", Late: "sum if Value > 3 then 1 else 0" },
};

it("goes there and back without loss", () => {
  for (const written of ["count", "sum Value", "count distinct Venue", "share Value", "largest [Arrived on]"]) {
    const f = readFigure(written, columns);
    expect(f && writeFigure(f), written).toBe(written);
  }
  expect(readFigure("sum if Value > 3 then 1 else 0", columns)).toBeUndefined();
  for (const by of [["Venue"], [{ Month: "month of [Arrived on]" }, "Venue"], []]) {
    const read = readBy(by, columns);
    expect(read && writeBy(read)).toEqual(by);
  }
  expect(readBy("Venue", columns)).toEqual([{ name: "Venue", period: "", of: "Venue" }]);
  expect(readBy([{ Half: "if Value > 3 then 1 else 2" }], columns)).toBeUndefined();
  expect(newTally(loans)).toMatchObject({ of: "Loans", by: ["Venue"] });
  expect(tallyLacks({})).toEqual(["a name", "the tabs whose rows are counted", "a figure"]);
});

it("edits a chart, and keeps figures that are more than a column's", async () => {
  const saved = { id: "p1", kind: "tally", name: "Worth", says: "Worth by venue.", body };
  const asked = service({
    "GET /api/v1/trackers": { body: [loans] },
    "GET /api/v1/people": { body: [] },
    [`GET ${base}/tallies/p1`]: { body: saved },
    [`POST ${base}/try/tally`]: { body: { says: "Worth by venue.", rows: [], passed_over: [] } },
    [`PUT ${base}/tallies/p1`]: { body: { changes: [], followed: [], seq: 2 } },
  });
  const { router } = openPage(<ChartPage />, "/t/:tracker/tallies/:definition", "/t/t1/tallies/p1", loans);
  expect(await screen.findByDisplayValue("sum if Value > 3 then 1 else 0")).toBeTruthy();
  expect(screen.getByText("sum of")).toBeTruthy();
  fireEvent.click(screen.getByLabelText("Delete figure Objects"));
  fireEvent.click(screen.getByText("Add figure"));
  fireEvent.click(screen.getByText("Show it on Today"));
  fireEvent.click(screen.getByLabelText("Do not group by Venue"));
  fireEvent.click(screen.getByText("Save"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/tallies"));
  const put = asked.find((a) => a.key.startsWith("PUT"))?.body;
  expect(put).toEqual({
    name: "Worth",
    of: "Loans",
    figures: { Worth: "sum Value", Late: "sum if Value > 3 then 1 else 0", "Figure 3": "count" },
    today: "yes",
  });
});
