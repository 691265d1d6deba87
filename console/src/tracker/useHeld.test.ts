import { expect, it } from "vitest";
import { follow } from "./useHeld";

const held = (row: number, id: string, anchor = row, anchorId = id) => ({
  selection: { active: { row, col: 1 }, anchor: { row: anchor, col: 1 } },
  id,
  anchorId,
});

it("goes with its rows when others come and go", () => {
  const one = follow(held(1, "b"), ["new", "a", "b", "c"], 3);
  expect(one).toEqual({ selection: { active: { row: 2, col: 1 }, anchor: { row: 2, col: 1 } }, adrift: false });
  const range = follow(held(1, "b", 2, "c"), ["b", "a", "new", "c"], 3);
  expect(range.selection).toEqual({ active: { row: 0, col: 1 }, anchor: { row: 3, col: 1 } });
});

it("is adrift when its row has left, and a range ends with its anchor where it was", () => {
  const gone = follow(held(1, "b", 2, "c"), ["a", "c"], 3);
  expect(gone).toEqual({ selection: { active: { row: 1, col: 1 }, anchor: { row: 1, col: 1 } }, adrift: true });
  const half = follow(held(0, "a", 2, "c"), ["a", "b"], 3);
  expect(half).toEqual({ selection: { active: { row: 0, col: 1 }, anchor: { row: 1, col: 1 } }, adrift: false });
});

it("stays within what is shown", () => {
  expect(follow(held(5, "f"), [], 3).adrift).toBe(false);
  expect(follow({ selection: held(5, "f").selection }, ["a"], 1).selection.active).toEqual({ row: 0, col: 0 });
});
