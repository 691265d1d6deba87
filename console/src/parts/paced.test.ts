import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { paced } from "./paced";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test("one change is asked about soon, once", () => {
  const ask = vi.fn(() => Promise.resolve());
  const pace = paced(ask);
  pace.soon();
  pace.soon();
  vi.advanceTimersByTime(200);
  expect(ask).toHaveBeenCalledTimes(1);
  vi.advanceTimersByTime(10_000);
  expect(ask).toHaveBeenCalledTimes(1);
});

test("while changes stream in it asks at most once a second, and at least every three", async () => {
  const at: number[] = [];
  const pace = paced(() => Promise.resolve(at.push(performance.now())));
  for (let i = 0; i < 1200; i++) {
    pace.soon();
    await vi.advanceTimersByTimeAsync(50);
  }
  const between = at.slice(1).map((time, i) => time - (at[i] ?? 0));
  expect(between.length).toBeGreaterThanOrEqual(20);
  expect(Math.min(...between)).toBeGreaterThanOrEqual(1_000);
  expect(Math.max(...between)).toBeLessThanOrEqual(3_000);
});

test("what happens while an answer is awaited is asked about after it", async () => {
  let answer = () => {};
  const ask = vi.fn(() => new Promise<void>((done) => (answer = done)));
  const pace = paced(ask);
  pace.soon();
  await vi.advanceTimersByTimeAsync(200);
  pace.soon();
  await vi.advanceTimersByTimeAsync(10_000);
  expect(ask).toHaveBeenCalledTimes(1);
  answer();
  await vi.advanceTimersByTimeAsync(10_000);
  expect(ask).toHaveBeenCalledTimes(2);
});

test("nothing is asked once it is stopped", () => {
  const ask = vi.fn(() => Promise.resolve());
  const pace = paced(ask);
  pace.soon();
  pace.stop();
  vi.advanceTimersByTime(10_000);
  expect(ask).not.toHaveBeenCalled();
});
