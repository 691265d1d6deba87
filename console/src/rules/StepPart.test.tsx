import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Tab } from "../api/client";
import { tracker } from "../testing/page";
import { missing, newStep, type Step } from "./body";
import { StepPart } from "./StepPart";
import { column } from "../testing/samples";

afterEach(cleanup);

const tab = (name: string, ...columns: Column[]): Tab => ({ id: name, name, label: "", columns, rows: 0, overdue: 0 });
const loans = tracker("admin", {
  tabs: [
    tab("Loans", column("Object"), column("Hall", "choice"), column("Value", "number")),
    tab("Load", column("Hall"), column("Rows", "number"), column("Worth", "number")),
  ],
});

function open(step: Step) {
  const onChange = vi.fn<(step: Step) => void>();
  const reminder = { id: "p1", kind: "reminder" as const, name: "Late", version: "v1", says: "", body: {} };
  render(
    <StepPart
      tracker={loans}
      trackers={[loans]}
      people={[]}
      tabs={loans.tabs}
      byRows
      reminders={[reminder]}
      step={step}
      onChange={onChange}
    />,
  );
  return onChange;
}
const choose = (label: string, title: string) => {
  fireEvent.mouseDown(screen.getByLabelText(label));
  const all = screen.getAllByTitle(title);
  fireEvent.click(all[all.length - 1] ?? document.body);
};

it("imports a file's rows, matched by a column, and says what becomes of missing rows", () => {
  const changed = open(newStep("take", loans.tabs, loans.tabs));
  expect(screen.queryByLabelText("The step as text")).toBeNull();
  choose("Into which tab", "Load");
  expect(changed).toHaveBeenLastCalledWith({ take: { tab: "Load", key: "Hall" } });
  choose("Rows missing from the file", "are deleted");
  expect(changed).toHaveBeenLastCalledWith({ take: { tab: "Loans", key: "Object", gone: "remove" } });
  fireEvent.change(screen.getByLabelText("Sheet of the workbook"), { target: { value: "March" } });
  expect(changed).toHaveBeenLastCalledWith({ take: { tab: "Loans", key: "Object", sheet: "March" } });
});

it("keeps what the text form alone says of a step", () => {
  const changed = open({ take: { tab: "Loans", key: "Object", gone: { mark: { Hall: "Lost" } } } });
  expect(screen.getByTitle("are marked, as the text form says")).toBeTruthy();
  choose("Matched by", "Value");
  expect(changed).toHaveBeenLastCalledWith({ take: { tab: "Loans", key: "Value", gone: { mark: { Hall: "Lost" } } } });
});

it("writes a file: rows, name, place, columns in order, totals and chart", () => {
  const step = { write: { tab: "Loans", file: "outbound/a.xlsx", columns: ["Object"], empty: "skip" } };
  const changed = open(step);
  const now = () => (changed.mock.lastCall?.[0] as { write: Record<string, unknown> }).write;
  fireEvent.change(screen.getByLabelText("First cell"), { target: { value: "b4" } });
  expect(now()).toMatchObject({ at: "B4", empty: "skip" });
  fireEvent.click(screen.getByText("A row of totals"));
  expect(now()).toMatchObject({ totals: "yes" });
  fireEvent.click(screen.getByText("Only the rows that match"));
  expect(now()).toMatchObject({ rows: "matched" });
  choose("Add to columns of the file", "Value");
  expect(now()).toMatchObject({ columns: ["Object", "Value"] });
  choose("Chart of", "Value");
  expect(now()).toMatchObject({ chart: { names: "Object", values: "Value" } });
  choose("Rows of", "reminder");
  expect(now()).toEqual({ reminder: "Late", file: "outbound/a.xlsx", empty: "skip" });
});

it("counts rows by group into the columns of a tab", () => {
  const changed = open({ tally: { of: "Loans", by: "Hall", into: "Load", key: "Hall", figures: { Rows: "count" } } });
  fireEvent.click(screen.getByText("Add figure"));
  expect(changed.mock.lastCall?.[0]).toMatchObject({ tally: { figures: { Rows: "count", Worth: "count" } } });
  choose("What figure 1 is", "sum of");
  expect(changed.mock.lastCall?.[0]).toMatchObject({ tally: { figures: { Rows: "sum Value" } } });
  choose("Group by", "Object");
  expect(changed.mock.lastCall?.[0]).toMatchObject({ tally: { by: "Object" } });
});

it("leaves a count of a list's records to the text form", () => {
  open({ tally: { list: "Register", by: "Hall", into: "Load", key: "Hall", figures: { Rows: "count" } } });
  expect(screen.getByLabelText("The step as text")).toBeTruthy();
});

it("says what steps about files lack", () => {
  const lacks = (step: Step) => missing({ name: "A", wake: "hand", steps: [step] });
  expect(lacks({ take: { tab: "", key: "" } })).toEqual(["the tab to import into"]);
  expect(lacks({ write: { tab: "Loans", file: "" } })).toEqual(["the name of the file"]);
  expect(lacks({ tally: { of: "Loans" } })).toEqual(["a figure"]);
});
