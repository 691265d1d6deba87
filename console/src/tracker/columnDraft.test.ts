import { describe, expect, it } from "vitest";
import { definitionOf, draftOf, fresh } from "./columnDraft";

describe("a column's definition", () => {
  it("holds what its type has use for, and takes the rest away", () => {
    const d = definitionOf({
      ...fresh,
      type: "choice",
      options: "Agreed = blue\nHeld\n\n",
      minimum: "3",
      required: true,
      refuse: true,
    });
    expect(d).toMatchObject({
      type: "choice",
      options: [{ Agreed: "blue" }, { Held: "" }],
      required: true,
      "bad input": "refuse",
    });
    expect(d.minimum).toBeNull();
    expect(d["longest text"]).toBeNull();
  });
  it("keeps what a column is", () => {
    const column = {
      id: "c1",
      name: "Value",
      type: "number",
      format: "EUR",
      minimum: "0",
      bad_input: "refuse" as const,
      automatic_number: true,
    };
    expect(definitionOf(draftOf(column))).toMatchObject({
      type: "number",
      format: "EUR",
      minimum: "0",
      "bad input": "refuse",
      "automatic number": true,
      default: null,
    });
    const computed = {
      id: "c2",
      name: "Days",
      type: "number",
      clause: "days between Arrived and today",
      bad_input: "mark" as const,
    };
    expect(definitionOf(draftOf(computed))).toMatchObject({
      type: "computed",
      clause: "days between Arrived and today",
      required: null,
    });
  });
});
