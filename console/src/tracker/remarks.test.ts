import { expect, it } from "vitest";
import { remarks } from "./remarks";

it("says how texts were read and what does not fit", () => {
  const row = { row: "r1", label: "Bell", column: "Due" };
  expect(
    remarks({
      read: [{ ...row, value: "03/04/2026", as: "2026-04-03, the day first" }],
      odd: [
        { ...row, tab: "Requested", value: "soon", why: "is not a date", hint: "write it as 2026-03-31" },
        { ...row, tab: "Requested", value: "20", why: "is in USD" },
      ],
    }),
  ).toEqual([
    "Due of Bell: read “03/04/2026” as 2026-04-03, the day first",
    "Due of Bell: “soon” is not a date: write it as 2026-03-31",
    "Due of Bell: “20” is in USD",
  ]);
  expect(remarks({})).toEqual([]);
});
