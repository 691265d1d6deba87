import { expect, test } from "vitest";
import { Drafts } from "./drafts";

function place() {
  const kept = new Map<string, string>();
  return {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => void kept.set(k, v),
    removeItem: (k: string) => void kept.delete(k),
    kept,
  };
}

const cell = (text: string) => ({ row: "r1", column: "Due", text });

test("a draft is kept until it is discarded, over a reload too", () => {
  const at = place();
  const first = new Drafts("d", at);
  let told = 0;
  first.subscribe(() => told++);
  first.add({ title: "Bell: Due", why: "not a date", cells: [cell("soon")] });
  expect(told).toBe(1);
  const again = new Drafts("d", at);
  expect(again.list()[0]?.cells).toEqual([cell("soon")]);
  again.change(again.list()[0]?.id ?? "", "sooner");
  expect(new Drafts("d", at).list()[0]?.cells[0]?.text).toBe("sooner");
  again.drop(again.list()[0]?.id ?? "");
  expect(at.kept.size).toBe(0);
});

test("a later draft of the same cell takes the place of the earlier one", () => {
  const d = new Drafts("d", place());
  d.add({ title: "a", why: "x", cells: [cell("1")] });
  d.add({ title: "b", why: "x", cells: [{ ...cell("2"), column: "Lender" }] });
  d.add({ title: "a", why: "y", cells: [cell("3")] });
  expect(d.list().map((x) => x.cells[0]?.text)).toEqual(["2", "3"]);
});

test("what cannot be read is no draft", () => {
  const at = place();
  at.setItem("d", "{nonsense");
  expect(new Drafts("d", at).list()).toEqual([]);
  at.setItem("d", '[{"id":"1"}]');
  expect(new Drafts("d", at).list()).toEqual([]);
});
