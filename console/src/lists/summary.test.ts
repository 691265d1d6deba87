import { expect, test } from "vitest";
import { summary } from "./summary";

const none = {
  added_to_tab: 0,
  added_to_list: 0,
  updated_in_tab: 0,
  updated_in_list: 0,
  gone_from_list: 0,
  gone_from_tab: 0,
  conflicts: 0,
  unchanged: 0,
  on_one_side: 0,
};

test("counts that are not nought are said, in order", () => {
  expect(summary({ ...none, unchanged: 34, conflicts: 1, updated_in_list: 1 })).toBe(
    "Records: 1 changed in the list, 1 in conflict, 34 the same.",
  );
  expect(summary(none)).toBe("Both sides are empty.");
});
