import { describe, expect, it } from "vitest";
import { at, bounds, holds, step } from "./selection";

const size = { rows: 10, cols: 4, page: 5 };
const mid = at({ row: 3, col: 1 });

describe("step", () => {
  it.each([
    ["ArrowDown", false, { row: 4, col: 1 }],
    ["ArrowUp", true, { row: 0, col: 1 }],
    ["ArrowRight", true, { row: 3, col: 3 }],
    ["ArrowLeft", false, { row: 3, col: 0 }],
    ["Home", false, { row: 3, col: 0 }],
    ["End", true, { row: 9, col: 3 }],
    ["PageDown", false, { row: 8, col: 1 }],
    ["PageUp", false, { row: 0, col: 1 }],
    ["Enter", false, { row: 4, col: 1 }],
    ["Tab", false, { row: 3, col: 2 }],
  ] as const)("%s", (key, far, want) => {
    expect(step(mid, key, false, far, size)?.active).toEqual(want);
  });

  it("stays within the grid, and leaves it by Tab at its ends", () => {
    const end = at({ row: 9, col: 3 });
    expect(step(end, "ArrowDown", false, false, size)?.active).toEqual({ row: 9, col: 3 });
    expect(step(end, "Tab", false, false, size)).toBeUndefined();
    expect(step(at({ row: 0, col: 0 }), "Tab", true, false, size)).toBeUndefined();
    expect(step(at({ row: 1, col: 3 }), "Tab", false, false, size)?.active).toEqual({ row: 2, col: 0 });
    expect(step(mid, "x", false, false, size)).toBeUndefined();
  });

  it("draws a range with shift and drops it without", () => {
    const range = step(step(mid, "ArrowDown", true, false, size) ?? mid, "ArrowLeft", true, false, size) ?? mid;
    expect(bounds(range)).toEqual({ from: { row: 3, col: 0 }, to: { row: 4, col: 1 } });
    expect(holds(range, 4, 0)).toBe(true);
    expect(holds(range, 5, 0)).toBe(false);
    const dropped = step(range, "ArrowDown", false, false, size) ?? mid;
    expect(bounds(dropped).from).toEqual(bounds(dropped).to);
  });
});
