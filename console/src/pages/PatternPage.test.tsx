import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker } from "../testing/page";
import { newPattern, patternLacks, readConcerns, readFacts, writeConcerns, writeFacts } from "./pattern";
import PatternPage from "./PatternPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.sessionStorage.clear();
});

const loans = tracker("admin", {
  tabs: [
    {
      id: "b1",
      name: "Venues",
      label: "",
      columns: ["Name", "Opens"].map((name) => column(name)),
      rows: 0,
      overdue: 0,
    },
  ],
});
const base = "/api/v1/trackers/t1";

it("reads facts as they are written, and writes them so", () => {
  const list = ["Name", { Opens: "filled once" }];
  expect(writeFacts(readFacts(list))).toEqual(list);
  expect(newPattern(loans.tabs[0])).toMatchObject({ for: "Venues", title: "{Name}", facts: ["Name", "Opens"] });
  expect(readConcerns("[Loan no] is this.Name")).toEqual({ column: "Loan no", own: "Name" });
  expect(readConcerns("Venue is this.Name and Due before today")).toBeUndefined();
  expect(writeConcerns({ column: "Loan no", own: "Name" })).toBe("[Loan no] is this.Name");
  expect(patternLacks({})).toEqual(["a name", "the tabs whose rows have pages", "a title"]);
});

it("makes a kind of page: facts, own fields, figures, a log", async () => {
  const asked = service({
    "GET /api/v1/trackers": { body: [loans] },
    "GET /api/v1/people": { body: [] },
    [`POST ${base}/try/dossier`]: { body: { says: "A page for each row of Venues.", rows: [], passed_over: [] } },
    [`POST ${base}/dossiers`]: { body: { changes: [], followed: [], seq: 2 } },
  });
  const { router } = openPage(<PatternPage />, "/t/:tracker/patterns/:pattern", "/t/t1/patterns/new", loans);
  fireEvent.change(await screen.findByLabelText("Name"), { target: { value: "Venue file" } });
  fireEvent.click(screen.getByText("Keep Opens as it was when the page was opened"));
  fireEvent.click(screen.getByText("Add field"));
  fireEvent.change(screen.getByLabelText("Fields of the page's own: name 1"), { target: { value: "Goal" } });
  fireEvent.click(screen.getByText("Add figure"));
  fireEvent.change(screen.getByLabelText("Clause of figure 1"), { target: { value: "length(Name)" } });
  fireEvent.click(screen.getByText("Add table"));
  fireEvent.change(screen.getByLabelText("Name of table 1"), { target: { value: "Here" } });
  fireEvent.change(screen.getByLabelText("Most rows of table 1"), { target: { value: "5" } });
  fireEvent.mouseDown(screen.getByLabelText("Column of table 1 that matches"));
  fireEvent.click(screen.getAllByTitle("Opens").at(-1) ?? document.body);
  fireEvent.click(screen.getByLabelText("Delete What"));
  fireEvent.click(screen.getByText("Save"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/pages"));
  expect(asked.find((a) => a.key === `POST ${base}/dossiers`)?.body).toEqual({
    name: "Venue file",
    for: "Venues",
    title: "{Name}",
    facts: ["Name", { Opens: "filled once" }],
    own: { Goal: { type: "text" } },
    figures: { "Figure 1": "length(Name)" },
    tables: { Here: { tab: "Venues", where: "Opens is this.Name", columns: ["Name", "Opens"], limit: 5 } },
    log: { columns: { When: { type: "date", default: "today" } } },
  });
});
