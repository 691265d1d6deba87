import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Definition, Tab } from "../api/client";
import { formBeginnings } from "../forms/beginnings";
import { formLacks } from "../forms/FormEditPage";
import { listBeginnings, newSync, syncBeginnings } from "../lists/beginnings";
import { listLacks, syncLacks } from "../lists/body";
import { pageBeginnings } from "../pages/beginnings";
import { patternLacks } from "../pages/pattern";
import { chartBeginnings } from "../tallies/beginnings";
import { tallyLacks } from "../tallies/body";
import { openPage, tracker } from "../testing/page";
import { column } from "../testing/samples";
import { begun, useBeginnings, type Beginning } from "./Beginnings";

afterEach(cleanup);

const tab = (name: string, ...columns: Column[]): Tab => ({ id: name, name, label: "", columns, rows: 0, overdue: 0 });
const stage = column("Stage", "choice", { options: [{ name: "Asked" }, { name: "Lent" }] });
const due = column("Due", "date");
const worth = column("Worth", "number");
const loans = tracker("admin", {
  tabs: [
    tab("Asked", column("No", "number", { automatic_number: true }), column("Object"), stage, due, worth),
    tab("Lent", column("Object"), stage, due, worth, column("Clerk", "person"), column("Left", "computed")),
    tab("Lenders", column("Lender no"), column("Name", "text", { required: true })),
  ],
});
const register = { id: "p9", kind: "list", name: "Lender register", says: "", body: {} } as unknown as Definition;

it.each([
  ["charts", chartBeginnings(loans), tallyLacks, ["Rows by Stage", "Monthly figures", "Rows of each Clerk"]],
  [
    "pages",
    pageBeginnings(loans),
    patternLacks,
    ["Asked", "Lent", "Lenders"].map((name) => `A page for each row of ${name}`),
  ],
  ["forms", formBeginnings(loans), formLacks, ["Asked", "Lent", "Lenders"].map((name) => `Add rows to ${name}`)],
] as const)("begins %s that lack nothing, an empty one last", (_, all: Beginning[], lacks, titles) => {
  expect(all.map((b) => b.title)).toEqual([...titles, "Start empty"]);
  for (const b of all.slice(0, -1)) expect(lacks(b.body), b.title).toEqual([]);
  expect(lacks(begun(all, "no such"))).toContain("a name");
});

it("fills them in for the tracker at hand", () => {
  expect(begun(chartBeginnings(loans), "monthly")).toMatchObject({
    of: ["Asked", "Lent"],
    by: [{ Month: "month of Due" }],
    figures: { Rows: "count", Worth: "sum Worth" },
  });
  expect(begun(formBeginnings(loans), "add Asked").fields).toEqual(["Object", "Stage", "Due", "Worth"]);
  expect(begun(formBeginnings(loans), "add Lenders").fields).toEqual(["Lender no", { Name: { required: "yes" } }]);
  expect(chartBeginnings(tracker("admin", { tabs: [] }))).toHaveLength(1);
});

it("begins a list by where its records are, and a sync with the tab that it suits", () => {
  for (const b of listBeginnings()) expect(listLacks(b.body)).toEqual(["a name", "where the records are"]);
  expect(syncBeginnings(loans, [register, { ...register, name: "Couriers" }], []).map((b) => b.title)).toEqual([
    "Keep Lenders in step with Lender register",
    "Read Lender register into Lenders",
    "Start empty",
  ]);
  const synced = { ...register, body: { list: "Lender register" } };
  expect(syncBeginnings(loans, [register], [synced]).map((b) => b.title)).toEqual(["Start empty"]);
  const sample = { id: "/id", fields: ["/id", "/lender_no", "/name"].map((at) => ({ at, samples: [] })) } as never;
  const sync = newSync(loans, [register], "both p9", sample);
  expect(sync).toMatchObject({
    tab: "Lenders",
    direction: "both",
    key: { "Lender no": "/id" },
    fields: { Name: "/name" },
  });
  expect(syncLacks(sync)).toEqual([]);
  expect(syncLacks(newSync(loans, [register], "in p9"))).toEqual([
    "the key that both sides have",
    "at least one field",
  ]);
  expect(newSync(loans, [register], "empty")).toMatchObject({ name: "", list: "Lender register", direction: "in" });
});

function Offers({ keep, none, onChoose }: { keep: boolean; none: boolean; onChoose: (id: string) => void }) {
  const { button, offers } = useBeginnings({
    keep,
    none,
    create: "New chart",
    nothing: "No charts yet. Choose how to begin:",
    barred: "No charts yet. An admin can create one.",
    from: chartBeginnings(loans),
    onChoose,
  });
  return (
    <>
      {button}
      {offers}
    </>
  );
}

it("offers them at once where there is nothing, else when asked, and never to whoever may not", () => {
  const choose = vi.fn();
  openPage(<Offers keep none onChoose={choose} />, "/", "/", loans);
  fireEvent.click(screen.getByRole("button", { name: "Monthly figures" }));
  expect(choose).toHaveBeenCalledWith("monthly");
  expect(screen.queryByText("Cancel")).toBeNull();
  cleanup();
  openPage(<Offers keep none={false} onChoose={choose} />, "/", "/", loans);
  expect(screen.queryByText("Monthly figures")).toBeNull();
  fireEvent.click(screen.getByText("New chart"));
  expect(screen.getByText("How do you want to begin?")).toBeTruthy();
  fireEvent.click(screen.getByText("Cancel"));
  expect(screen.queryByText("Monthly figures")).toBeNull();
  cleanup();
  openPage(<Offers keep={false} none onChoose={choose} />, "/", "/", loans);
  expect(screen.getByText("No charts yet. An admin can create one.")).toBeTruthy();
  expect(screen.queryByRole("button")).toBeNull();
});
