import { describe, expect, it } from "vitest";
import type { Column } from "../api/client";
import { address, show } from "../parts/text";
import { shown, typed, widthOf } from "./format";

const column = (type: string, format?: string): Column => ({ id: "c1", name: "X", type, format, bad_input: "mark" });
const names = new Map([["marta@example.org", "Marta Quell"]]);

describe("shown", () => {
  it.each([
    [12500.5, column("number", "EUR"), "12\u202f500.50 EUR"],
    ["-1234567", column("number", "EUR"), "-1\u202f234\u202f567.00 EUR"],
    [0.125, column("number", "percent"), "12.5 %"],
    [4, column("number", "rating"), "4 of 5"],
    [36, column("number", "duration"), "36:00"],
    [-1.5, column("number", "duration"), "-1:30"],
    ["0.01", column("number", "duration"), "0:00:36"],
    [["marta@example.org", "b@example.org"], column("person"), "Marta Quell, b@example.org"],
    [7, column("number"), "7"],
    ["marta@example.org", column("person"), "Marta Quell"],
    ["other@example.org", column("person"), "other@example.org"],
    ["2026-03-31T08:30", column("date-time"), "2026-03-31 08:30"],
    [null, column("number", "EUR"), ""],
    [true, column("checkbox"), "yes"],
  ])("%s", (v, c, want) => {
    expect(shown(v, c, names)).toBe(want);
  });
});

it("writes dates as the tracker does", () => {
  const written = ["31.03.2026", "31/03/2026", "03/31/2026", "31 March 2026", "31 Mar 2026", ""].map((form) =>
    shown("2026-03-31", column("date"), names, { dates: form }),
  );
  expect(written).toEqual(["31.03.2026", "31/03/2026", "03/31/2026", "31 March 2026", "31 Mar 2026", "2026-03-31"]);
  expect(shown("2026-03-31T08:30", column("date-time"), names, { dates: "31.03.2026" })).toBe("31.03.2026 08:30");
  expect(shown("soon", column("date"), names, { dates: "31.03.2026" })).toBe("soon");
});

it("types several choices parted by semicolons", () => {
  expect(typed(["a", "b"])).toBe("a; b");
  expect(typed(null)).toBe("");
});

it("writes numbers as the tracker does", () => {
  const said = (format: string | undefined, numbers: string) =>
    shown("1234567.5", { ...column("number"), format }, names, { numbers });
  const forms = ["", "1,234.5", "1.234,5", "1 234,5"];
  expect(forms.map((f) => said("EUR", f))).toEqual([
    "1\u202f234\u202f567.50 EUR",
    "1,234,567.50 EUR",
    "1.234.567,50 EUR",
    "1\u202f234\u202f567,50 EUR",
  ]);
  expect(forms.map((f) => said(undefined, f))).toEqual(["1234567.5", "1234567.5", "1234567,5", "1234567,5"]);
  expect(shown("1.5", { ...column("number"), format: "duration" }, names, { numbers: "1.234,5" })).toBe("1:30");
});

it("takes links apart", () => {
  expect(address("photo <https://example.org/7>")).toEqual({ label: "photo", to: "https://example.org/7" });
  expect(address("https://example.org")).toEqual({ label: "https://example.org", to: "https://example.org" });
});

it("counts in words", () => {
  expect(show({ a: [1, true], b: null })).toBe("a: 1, yes, b: ");
});

it("gives the label's column the most room", () => {
  expect(widthOf({ ...column("text"), name: "Object" }, "Object")).toBeGreaterThan(
    widthOf({ ...column("text"), name: "Remarks" }, "Object"),
  );
});
