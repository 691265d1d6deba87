import { expect, it } from "vitest";
import { listed, named, operators, parse, print, quote, read, split, unquote } from "./condition";
import { column } from "../testing/samples";

const columns = [
  column("Stage", "choice"),
  column("Due", "date"),
  column("Value", "number"),
  column("Packed", "checkbox"),
  column("Condition report", "link"),
  column("Object"),
];

it("takes a chain of comparisons apart", () => {
  expect(parse('Stage is "Agreed" and Due before today - 15 days and [Condition report] is blank', columns)).toEqual({
    join: "and",
    parts: [
      { kind: "compare", column: "Stage", op: "is", value: '"Agreed"' },
      { kind: "compare", column: "Due", op: "before", value: "today - 15 days" },
      { kind: "compare", column: "Condition report", op: "is blank", value: "" },
    ],
  });
  expect(parse("Packed or not Packed or Value >= 5", columns)).toEqual({
    join: "or",
    parts: [
      { kind: "compare", column: "Packed", op: "is ticked", value: "" },
      { kind: "compare", column: "Packed", op: "is not ticked", value: "" },
      { kind: "compare", column: "Value", op: ">=", value: "5" },
    ],
  });
  expect(parse("", columns).parts).toEqual([]);
});

it("keeps as a clause what is more than a comparison", () => {
  for (const text of [
    "count in Loans where Stage is this.Stage > 5",
    "Value * 2 > 10",
    "Value between 1 and 5",
    'Stage is "A" and (Value > 5 or Packed)',
    'Stage is "A" or Packed and Value > 5',
    "Nowhere is blank",
    "not (Stage is blank)",
    'Stage is (if Packed then "A" else "B")',
  ]) {
    expect(print(read(text, columns)), text).toBe(text);
  }
  expect(read("Value between 1 and 5", columns).parts).toEqual([{ kind: "clause", text: "Value between 1 and 5" }]);
  expect(read('Stage is "A" and (Value > 5 or Packed)', columns).parts[1]).toEqual({
    kind: "clause",
    text: "(Value > 5 or Packed)",
  });
});

it("goes there and back without loss", () => {
  for (const text of [
    "Stage is not blank and Stage is not tab",
    "Due on or before today and Due on or after 2026-01-01",
    "Due on or before today or Packed",
    'Object contains "and then or \\" so"',
    'Stage is one of ("A", "B, or C")',
    "Due within 30 days and Object is odd",
    'Stage changed and Stage was "Requested"',
    'Object is "{Stage} and {Value}"',
  ]) {
    expect(print(read(text, columns)), text).toBe(text);
    expect(read(print(read(text, columns)), columns)).toEqual(read(text, columns));
  }
});

it("splits outside quotes, brackets and parentheses alone", () => {
  expect(split('a and "b and c" and (d and e) and [f and g]', "and")).toEqual([
    "a",
    '"b and c"',
    "(d and e)",
    "[f and g]",
  ]);
});

it("writes names and values as clauses have them", () => {
  expect(named("Stage")).toBe("Stage");
  expect(named("Condition report")).toBe("[Condition report]");
  expect(named("Count")).toBe("[Count]");
  for (const text of ["plain", 'a "b" c', "back\\slash", "{hole}", "two\nlines"])
    expect(unquote(quote(text))).toBe(text);
  expect(unquote('"{Stage}"')).toBeUndefined();
  expect(unquote("today")).toBeUndefined();
  expect(listed('("A", "B, C")')).toEqual(["A", "B, C"]);
  expect(listed("(A, B)")).toBeUndefined();
});

it("offers the comparisons that suit a column", () => {
  expect(operators(column("x", "number"), false)).toContain(">=");
  expect(operators(column("x", "number"), false)).not.toContain("changed");
  expect(operators(column("x", "date"), true)).toContain("was");
  expect(operators(column("x", "checkbox"), false)).toEqual(["is ticked", "is not ticked"]);
  expect(operators(undefined, false)).toContain("contains");
});
