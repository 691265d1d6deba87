import { describe, expect, it, vi } from "vitest";
import type { Row } from "../api/client";
import { RowStore } from "./rowStore";

function row(id: string, tab: string, pos: number, version = 1, cells: Record<string, unknown> = {}): Row {
  return { id, tab, tab_id: tab, pos, version, label: id, cells };
}

function filled(): RowStore {
  const store = new RowStore();
  store.load("a", [row("r1", "a", 10), row("r2", "a", 20), row("r3", "a", 30)]);
  store.load("b", [row("r4", "b", 10)]);
  return store;
}

describe("RowStore", () => {
  it("moves a row to its new tab, in order", () => {
    const store = filled();
    store.put(row("r2", "b", 5, 2));
    expect(store.ids("a")).toEqual(["r1", "r3"]);
    expect(store.ids("b")).toEqual(["r2", "r4"]);
    store.put(row("r2", "a", 20, 3)); // taken back: to where it stood
    expect(store.ids("a")).toEqual(["r1", "r2", "r3"]);
    expect(store.ids("b")).toEqual(["r4"]);
  });

  it("never replaces a newer version by an older one", () => {
    const store = filled();
    store.put(row("r1", "b", 40, 5));
    store.put(row("r1", "a", 10, 4));
    expect(store.row("r1")?.tab_id).toBe("b");
    store.load("a", [row("r1", "a", 10, 4), row("r2", "a", 20)]); // fetched before the move
    expect(store.ids("a")).toEqual(["r2"]);
    expect(store.ids("b")).toEqual(["r4", "r1"]);
  });

  it("applies what an event tells and tells only who listens to the row", () => {
    const store = filled();
    const first = vi.fn();
    const second = vi.fn();
    const order = vi.fn();
    store.subscribeRow("r1", first);
    const stop = store.subscribeRow("r2", second);
    store.subscribeOrder(order);
    store.apply({
      seq: 2,
      trackers: ["t"],
      who: "x",
      says: "",
      rows: [row("r1", "a", 10, 2, { Object: "Bell" })],
      gone: [],
    });
    expect(first).toHaveBeenCalledTimes(1);
    expect(second).not.toHaveBeenCalled();
    expect(order).not.toHaveBeenCalled();
    store.apply({ seq: 3, trackers: ["t"], who: "x", says: "", rows: [row("r9", "a", 25, 3)], gone: ["r3"] });
    expect(store.ids("a")).toEqual(["r1", "r2", "r9"]);
    expect(order).toHaveBeenCalled();
    stop();
    store.put(row("r2", "a", 20, 9));
    expect(second).not.toHaveBeenCalled();
  });

  it("shows what was typed until it is confirmed", () => {
    const store = filled();
    const drawn = vi.fn();
    store.subscribeRow("r1", drawn);
    store.setTyped("r1", "Object", { text: "Bell" });
    store.setTyped("r1", "Object", { text: "Bell" });
    expect(store.typedInto("r1", "Object")).toEqual({ text: "Bell" });
    expect(drawn).toHaveBeenCalledTimes(1);
    store.setTyped("r1", "Object", undefined);
    expect(store.typedInto("r1", "Object")).toBeUndefined();
  });

  it("takes rows page by page, beside what happens meanwhile", () => {
    const store = new RowStore();
    store.load("a", [row("r1", "a", 10), row("r2", "a", 20)]);
    store.put(row("r4", "a", 35, 2)); // added while the next page is on its way, which has it too
    store.load("a", [row("r3", "a", 30), row("r4", "a", 35, 2), row("r5", "a", 40)], true);
    expect(store.ids("a")).toEqual(["r1", "r2", "r3", "r4", "r5"]);
    store.load("b", []);
    store.load("b", [row("r3", "b", 5, 7)], true); // it has moved since
    expect(store.ids("a")).toEqual(["r1", "r2", "r4", "r5"]);
    expect(store.ids("b")).toEqual(["r3"]);
  });

  it("keeps each row once and in order, whatever happens", () => {
    let seed = 7;
    const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n;
    for (let round = 0; round < 50; round++) {
      const store = new RowStore();
      const truth = new Map<string, Row>();
      store.load("a", []);
      store.load("b", []);
      for (let version = 1; version < 40; version++) {
        const rows: Row[] = [];
        const gone: string[] = [];
        for (let i = random(4); i >= 0; i--) {
          const id = `r${random(12)}`;
          if (rows.some((r) => r.id === id) || gone.includes(id)) continue;
          if (random(5) === 0) gone.push(id);
          else rows.push(row(id, random(3) === 0 ? "b" : "a", random(1000) * 13 + Number(id.slice(1)), version));
        }
        store.apply({ seq: version, trackers: ["t"], who: "x", says: "", rows, gone });
        for (const r of rows) truth.set(r.id, r);
        for (const id of gone) truth.delete(id);
        for (const tab of ["a", "b"]) {
          const want = [...truth.values()].filter((r) => r.tab_id === tab).sort((x, y) => x.pos - y.pos);
          expect(store.ids(tab)).toEqual(want.map((r) => r.id));
        }
      }
    }
  });
});
