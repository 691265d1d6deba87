import { expect, it } from "vitest";
import type { Row } from "../api/client";
import { differences } from "./differences";
import { countWords } from "./Outcome";

const row = (id: string, cells: Record<string, unknown>) => ({ id, cells }) as unknown as Row;

it("tells what changed, left and came, whatever the order", () => {
  const then = [row("r1", { A: 1, B: ["x"] }), row("r2", { A: 2 }), row("r3", { A: 3, B: null })];
  const now = [row("r4", { A: 4 }), row("r3", { A: 3 }), row("r1", { A: 1, B: ["x", "y"] })];
  const found = differences(then, now);
  expect(found.map((f) => [f.row.id, f.changed, f.gone, f.added])).toEqual([
    ["r1", ["B"], false, false],
    ["r2", [], true, false],
    ["r3", [], false, false],
    ["r4", [], false, true],
  ]);
});

it("counts changes in words", () => {
  expect(countWords({ set: 1, add: 2, look: 1, reshape: 1 })).toBe(
    "1 cell set, 2 rows added, 1 style changed, 1 setup change",
  );
  expect(countWords(undefined)).toBe("");
});
