import { expect, it } from "vitest";
import type { Column, Tab } from "../api/client";
import { tracker } from "../testing/page";
import { beginnings } from "./beginnings";
import {
  byEdit,
  columnsOf,
  kindOf,
  kinds,
  missing,
  moved,
  newStep,
  tabsOf,
  texts,
  wakeKinds,
  wakeOf,
  withWakes,
} from "./body";
import { column } from "../testing/samples";

const stage = column("Stage", "choice", { options: [{ name: "Requested" }, { name: "Agreed" }] });
const tab = (name: string, ...columns: Column[]): Tab => ({ id: name, name, label: "", columns, rows: 0, overdue: 0 });
const requested = tab(
  "Requested",
  column("Object"),
  stage,
  column("Due", "date"),
  column("Flag"),
  column("Packed", "checkbox"),
);
const agreed = tab("Agreed", column("Object"), stage);
const archive = tab("Archive", column("Object"));
const loans = tracker("admin", { tabs: [requested, agreed, archive] });

it("reads and changes why a rule runs", () => {
  const body = { wake: { edit: ["Stage"], clock: "daily at 7:00", missed: "skip" } };
  expect(wakeKinds(body)).toEqual(["edit", "clock"]);
  expect(byEdit(body)).toBe(true);
  expect(withWakes(body, ["clock", "new row"]).wake).toEqual({
    clock: "daily at 7:00",
    "new row": "yes",
    missed: "skip",
  });
  expect(withWakes(body, []).wake).toBe("hand");
  const filed = withWakes({ ...body, in: "Agreed", where: "Due is blank" }, ["edit", "file"]);
  expect(filed.wake).toEqual({ file: "intake/*" });
  expect([filed.in, filed.where]).toEqual([undefined, undefined]);
  expect(withWakes(filed, ["file", "edit"]).wake).toEqual({ edit: [] });
  expect(wakeOf({ wake: "hand" })).toEqual({});
  expect(byEdit({ wake: { clock: "daily at 7:00" } })).toBe(false);
});

it("names what a rule lacks", () => {
  expect(missing({})).toEqual(["a name", "a step"]);
  expect(missing({ name: "A", wake: { edit: [] }, steps: [{ move: { to: "" } }, { set: {} }, { mail: {} }] })).toEqual([
    "the column whose edit starts it",
    "the tab to move to of step 1",
    "the cells to set of step 2",
    "who gets the email of step 3",
  ]);
  expect(missing({ name: "A", wake: { "becomes true": "", clock: "" }, steps: [{ put: { values: {} } }] })).toEqual([
    "the condition that becomes true",
    "its schedule",
    "the values",
  ]);
  expect(missing({ name: "A", steps: [{ remove: "yes" }] })).toEqual([]);
});

it("begins steps of every kind for the tabs at hand", () => {
  for (const kind of kinds) expect(kindOf(newStep(kind, [requested], loans.tabs))).toBe(kind);
  expect(newStep("move", [requested], loans.tabs)).toEqual({ move: { to: "Agreed" } });
});

it("takes columns of several tabs once, and moves steps about", () => {
  expect(columnsOf([requested, agreed]).map((c) => c.name)).toEqual(["Object", "Stage", "Due", "Flag", "Packed"]);
  expect(tabsOf({ in: "Agreed" }, loans.tabs)).toEqual([agreed]);
  expect(tabsOf({}, loans.tabs)).toHaveLength(3);
  expect(texts(["a", 5, true])).toEqual(["a", "5", ""]);
  expect(moved([1, 2, 3], 2, -1)).toEqual([1, 3, 2]);
  expect(moved([1, 2, 3], 0, -1)).toEqual([1, 2, 3]);
});

it("offers beginnings that are complete, filled in for the tracker", () => {
  const all = beginnings(loans);
  expect(all.map((b) => b.id)).toEqual(["route", "archive", "late", "intake", "report", "empty"]);
  for (const b of all.slice(0, -1)) expect(missing(b.body), b.id).toEqual([]);
  expect(all[0]?.body).toMatchObject({ in: ["Requested", "Agreed"], steps: [{ move: { to: "{Stage}" } }] });
  expect(all[1]?.body).toMatchObject({ where: "Packed", steps: [{ move: { to: "Archive" } }] });
  expect(all[2]?.body).toMatchObject({
    where: "Due before today and Flag is blank",
    steps: [{ set: { Flag: "Late" } }],
  });
  expect(beginnings(tracker("admin"))).toEqual([]);
});
