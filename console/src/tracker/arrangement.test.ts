import { describe, expect, it } from "vitest";
import type { Definition } from "../api/client";
import {
  blank,
  bodyOf,
  clauseOf,
  columnsShown,
  inAddress,
  narrows,
  odd,
  ofView,
  only,
  orderText,
  parseOrder,
  pickClause,
  plain,
  read,
  sortedBy,
  split,
  write,
  type Arrangement,
} from "./arrangement";
import { column } from "../testing/samples";

const columns = [
  column("Object"),
  column("Due", "date"),
  column("Fee, net", "number"),
  column("Packed", "checkbox"),
  column("Needs", "choice", { several: true }),
  column("Last descending"),
];

describe("pickClause", () => {
  it.each([
    [column("Object"), ["Bell"], '[Object] is "Bell"'],
    [column("Object"), ['A "big" {bell}', "Horn"], '[Object] is one of ("A \\"big\\" \\{bell\\}", "Horn")'],
    [column("Object"), [blank], "[Object] is blank"],
    [column("Object"), ["Bell", blank, odd], '([Object] is "Bell" or [Object] is blank or [Object] is odd)'],
    [column("Due", "date"), ["2026-03-31", "2026-04-01"], "[Due] is one of (2026-03-31, 2026-04-01)"],
    [column("Fee", "number"), ["-1.5"], "[Fee] is -1.5"],
    [column("Packed", "checkbox"), ["true"], "[Packed]"],
    [column("Packed", "checkbox"), ["true", "false"], "([Packed] or [Packed] is no)"],
    [
      column("Needs", "choice", { several: true }),
      ["Fragile", "Heavy"],
      '([Needs] contains "Fragile" or [Needs] contains "Heavy")',
    ],
  ])("of %o", (c, values, want) => expect(pickClause(c, values)).toBe(want));
});

it("joins what is asked of rows", () => {
  expect(clauseOf(plain, columns)).toBe("");
  expect(clauseOf({ ...plain, where: "A or B" }, columns)).toBe("A or B");
  expect(clauseOf({ ...plain, where: "A or B", picks: { Due: [blank], Object: ["x"] } }, columns)).toBe(
    '[Object] is "x" and [Due] is blank and (A or B)',
  );
  expect(narrows(plain)).toBe(false);
  expect(narrows({ ...plain, words: "  " })).toBe(false);
  expect(narrows({ ...plain, order: [{ column: "Due", down: false }] })).toBe(true);
});

it("writes an order as it reads it", () => {
  const order = [
    { column: "Fee, net", down: true },
    { column: "Last descending", down: false },
    { column: "Due", down: false },
  ];
  expect(orderText(order)).toBe("[Fee, net] descending, Last descending, Due");
  expect(parseOrder(orderText(order), columns)).toEqual(order);
  expect(parseOrder("Gone, Due descending,", columns)).toEqual([{ column: "Due", down: true }]);
  expect(split("A, [B, C] descending ,D")).toEqual(["A", "[B, C] descending", "D"]);
});

const full: Arrangement = {
  words: "bell horn",
  where: 'Object is not "a&b"',
  picks: { Object: ["Bell", ""], Due: ["2026-03-31"] },
  order: [{ column: "Due", down: true }],
  columns: ["Due", "Fee, net", "Object"],
  frozen: 0,
  widths: { Due: 140 },
};

describe("an address", () => {
  it("holds a whole arrangement", () => {
    const query = write(new URLSearchParams("row=r1"), full, plain, "");
    expect(query.get("row")).toBe("r1");
    expect(read(new URLSearchParams(query.toString()), plain, columns)).toEqual(full);
    expect(inAddress(query)).toBe(true);
    expect(only(query).has("row")).toBe(false);
    expect(write(query, plain, plain, "").toString()).toBe("row=r1");
    expect(inAddress(new URLSearchParams("row=r1"))).toBe(false);
  });

  it("holds what differs from a view", () => {
    const view: Definition = {
      id: "p1",
      kind: "view",
      name: "Dear",
      version: "v1",
      says: "",
      paused: false,
      watching: false,
      body: {
        name: "Dear",
        tab: "Open",
        where: "Due before today",
        order: "Due",
        columns: ["Object", "Gone"],
        frozen: 1,
      },
    };
    const from = ofView(view, columns);
    expect(from).toEqual({
      ...plain,
      where: "Due before today",
      order: [{ column: "Due", down: false }],
      columns: ["Object"],
      frozen: 1,
    });
    expect(write(new URLSearchParams(), from, from, "Dear").toString()).toBe("view=Dear");
    const changed = { ...from, order: [], where: "" };
    const query = write(new URLSearchParams(), changed, from, "Dear");
    expect(query.toString()).toBe("where=&order=&view=Dear");
    expect(read(query, from, columns)).toEqual(changed);
    expect(ofView(undefined, columns)).toEqual(plain);
  });

  it("that is cut short or tells of what is gone does no harm", () => {
    const query = new URLSearchParams(
      'picks={"Object":["Be&widths={"Due":"x","Gone":90}&columns=Gone,Due&frozen=x&order=,,',
    );
    expect(read(query, plain, columns)).toEqual({ ...plain, columns: ["Due"] });
  });
});

it("is saved as a view", () => {
  expect(bodyOf(plain, "All", "Open", columns)).toEqual({ name: "All", tab: "Open" });
  expect(bodyOf(full, "Dear", "Open", columns)).toEqual({
    name: "Dear",
    tab: "Open",
    words: "bell horn",
    where: '([Object] is "Bell" or [Object] is blank) and [Due] is 2026-03-31 and (Object is not "a&b")',
    order: "Due descending",
    columns: ["Due", "Fee, net", "Object"],
    frozen: 0,
  });
});

it("gives the columns shown", () => {
  expect(columnsShown(plain, columns)).toBe(columns);
  expect(columnsShown({ ...plain, columns: ["Due", "Object"] }, columns).map((c) => c.name)).toEqual(["Due", "Object"]);
});

it("sorts by a column alone, or after others", () => {
  const due = [{ column: "Due", down: false }];
  expect(sortedBy(due, "Object", true, false)).toEqual([{ column: "Object", down: true }]);
  expect(sortedBy(due, "Object", true, true)).toEqual([...due, { column: "Object", down: true }]);
  expect(sortedBy(due, "Due", true, true)).toEqual([{ column: "Due", down: true }]);
});
