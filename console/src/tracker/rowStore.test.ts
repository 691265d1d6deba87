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
    store.setPending("r1", "Object", "Bell");
    expect(store.pending("r1", "Object")).toBe("Bell");
    store.setPending("r1", "Object", undefined);
    expect(store.pending("r1", "Object")).toBeUndefined();
  });
});
