import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { LiveEvent } from "../api/client";
import { row } from "../testing/samples";
import { forget, storeOf } from "./stores";

// What the service tells, on every stream that is open.
const open = new Set<Stream>();
class Stream {
  heard?: (message: MessageEvent) => void;
  constructor() {
    open.add(this);
  }
  addEventListener(name: string, listener: (message: MessageEvent) => void) {
    if (name === "change") this.heard = listener;
  }
  close() {
    open.delete(this);
  }
}

let seq = 1_000;
const tell = (e: Partial<LiveEvent>) => {
  const data = JSON.stringify({ seq: ++seq, trackers: ["t1"], rows: [], gone: [], ...e });
  for (const stream of open) stream.heard?.(new MessageEvent("change", { data }));
};

beforeEach(() => void vi.stubGlobal("EventSource", Stream));
afterEach(() => {
  forget();
  vi.unstubAllGlobals();
});

describe("rows between visits", () => {
  it("stay, of the trackers that were used last", () => {
    const first = storeOf("t1");
    expect(storeOf("t1")).toBe(first);
    const second = storeOf("t2");
    storeOf("t3");
    storeOf("t1");
    storeOf("t4"); // t2 is the one that was not used for longest
    expect(storeOf("t1")).toBe(first);
    expect(storeOf("t2")).not.toBe(second);
  });

  it("follow what others do, in their own tracker alone", () => {
    const [mine, other] = [storeOf("t1"), storeOf("t2")];
    for (const store of [mine, other]) store.load("b-Agreed", [row("r1", { Object: "Bell" })]);
    tell({ rows: [row("r1", { Object: "Gong" }, { version: 2 }), row("r2", { Object: "Drum" })] });
    expect(mine.row("r1")?.cells.Object).toBe("Gong");
    expect(mine.ids("b-Agreed")).toHaveLength(2);
    expect(other.row("r1")?.cells.Object).toBe("Bell");
    tell({ gone: ["r2"] });
    expect(mine.row("r2")).toBeUndefined();
  });

  it("are in doubt once much has changed", () => {
    const store = storeOf("t1");
    store.load("b-Agreed", [row("r1", { Object: "Bell" })]);
    store.finish("b-Agreed");
    expect(store.loaded("b-Agreed")).toBe(true);
    tell({ reload: true });
    expect(store.loaded("b-Agreed")).toBe(false);
    expect(store.row("r1")).toBeDefined(); // and are shown until they come again
  });

  it("are forgotten with whoever signs out", () => {
    const store = storeOf("t1");
    store.load("b-Agreed", [row("r1", { Object: "Bell" })]);
    forget();
    expect(open.size).toBe(0);
    expect(storeOf("t1").row("r1")).toBeUndefined();
    expect(open.size).toBe(1);
  });
});
