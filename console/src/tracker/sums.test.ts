import { expect, it } from "vitest";
import { sumsOf } from "./sums";

it("adds decimals exactly", () => {
  expect(sumsOf(["0.1", "0.2", 3, null, "", "TBC", true, []])).toEqual({
    filled: 5,
    numbers: 3,
    sum: "3.3",
    average: "1.1",
    least: "0.1",
    most: "3",
  });
  const cents = Array.from({ length: 100_000 }, () => "0.10");
  expect(sumsOf(cents).sum).toBe("10000");
  expect(sumsOf(["-1", "-2", "-2"])).toMatchObject({ sum: "-5", average: "-1.6667", least: "-2", most: "-1" });
  expect(sumsOf(["9007199254740993", "0.000000000000000001"]).sum).toBe("9007199254740993.000000000000000001");
  expect(sumsOf(["1", "2", "2"], 2).average).toBe("1.67");
  expect(sumsOf([])).toMatchObject({ filled: 0, numbers: 0, sum: "0" });
});
