import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { plain, type Arrangement } from "./arrangement";
import { FilterBox } from "./FilterBox";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const box = (arrangement: Arrangement, onArrange: (part: Partial<Arrangement>) => void) => (
  <FilterBox tracker="t1" tab="Open" arrangement={arrangement} onArrange={onArrange} />
);
const field = () => screen.getByLabelText<HTMLInputElement>("Find in these rows");
const type = (text: string) => fireEvent.change(field(), { target: { value: text } });
const rest = () => act(() => void vi.advanceTimersByTime(1000));

it("asks once a hand rests, and keeps what is typed while the address follows", () => {
  const onArrange = vi.fn();
  const { rerender } = render(box(plain, onArrange));
  type("be");
  type("bell");
  rest();
  expect(onArrange.mock.calls).toEqual([[{ words: "bell" }]]);
  type("bell h"); // before the address has followed
  rerender(box(plain, onArrange));
  rerender(box({ ...plain, words: "bell" }, onArrange));
  expect(field().value).toBe("bell h");
  rest();
  expect(onArrange).toHaveBeenLastCalledWith({ words: "bell h" });
  rerender(box({ ...plain, words: "bell h" }, onArrange));
  rerender(box(plain, onArrange)); // taken off elsewhere
  expect(field().value).toBe("");
  rest();
  expect(onArrange).toHaveBeenCalledTimes(2);
});
