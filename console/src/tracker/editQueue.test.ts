import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ProblemError, type ChangeSet, type Problem, type Row } from "../api/client";
import { EditQueue, readEdits, type Body, type EditedCell } from "./editQueue";
import { RowStore } from "./rowStore";

const row = (id: string, version: number, cells: Record<string, unknown>): Row =>
  ({ id, version, tab_id: "b1", tab: "Requested", label: id, pos: 1, cells }) as Row;

function place() {
  const kept = new Map<string, string>();
  return {
    kept,
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => void kept.set(k, v),
    removeItem: (k: string) => void kept.delete(k),
  };
}

const problem = (p: Partial<Problem>) => new ProblemError({ type: "", title: "", status: 422, detail: "no", ...p });
const awayNow = () => problem({ type: "urn:kavlo:away", status: 0 });

// A service of a few rows, which keeps the answers to keys as the real one does.
class Service {
  rows = new Map<string, Row>([
    ["r1", row("r1", 1, { Due: "a", Lender: "x" })],
    ["r2", row("r2", 1, { Due: "b" })],
  ]);
  answers = new Map<string, ChangeSet>();
  sent: string[] = [];
  away = false;
  losesAnswers = false; // it does what it is asked, and nobody hears of it
  refuses?: (cells: Record<string, unknown>) => Problem | undefined;

  theirs(id: string, cells: Record<string, unknown>) {
    const is = this.rows.get(id);
    if (is) this.rows.set(id, row(id, is.version + 1, { ...is.cells, ...cells }));
  }

  send = (edits: Body, key: string): Promise<ChangeSet> => {
    if (this.away) return Promise.reject(awayNow());
    const answer = this.answers.get(key) ?? this.write(edits);
    if (answer instanceof ProblemError) return Promise.reject(answer);
    this.answers.set(key, answer);
    return this.losesAnswers ? Promise.reject(awayNow()) : Promise.resolve(answer);
  };

  private write(edits: Body): ChangeSet | ProblemError {
    for (const e of edits) {
      const is = this.rows.get(e.row);
      if (!is) return problem({ status: 404 });
      if (e.version && e.version !== is.version) return problem({ status: 412, current: is });
      const refused = e.keep_odd ? undefined : this.refuses?.(e.cells);
      if (refused) return new ProblemError(refused);
    }
    for (const e of edits) {
      this.sent.push(`${e.row} ${JSON.stringify(e.cells)}`);
      this.theirs(e.row, e.cells);
    }
    return { seq: this.sent.length, changes: [], followed: [], rows: edits.map((e) => this.rows.get(e.row)) } as never;
  }
}

const cell = (row: string, value: unknown, before: unknown, version = 1, column = "Due"): EditedCell => ({
  row,
  label: row,
  column,
  value,
  before,
  version,
});

function setUp(at = place(), there = new Service()) {
  const store = new RowStore();
  store.load("b1", [...there.rows.values()]);
  return { at, there, store, queue: new EditQueue(store, there.send, "k", at) };
}

beforeEach(() => {
  vi.useFakeTimers();
});

afterEach(() => {
  vi.useRealTimers();
});

const rest = () => vi.advanceTimersByTimeAsync(20_000);

describe("edits on their way", () => {
  it("are sent in the order in which they were made", async () => {
    const { there, queue, store, at } = setUp();
    queue.add([cell("r1", "1", "a")]);
    queue.add([cell("r2", "2", "b")]);
    queue.add([cell("r1", "3", "a")]);
    expect(store.typedInto("r1", "Due")).toEqual({ text: "3" });
    await rest();
    expect(there.sent).toEqual(['r1 {"Due":"1"}', 'r2 {"Due":"2"}', 'r1 {"Due":"3"}']);
    expect(queue.list()).toEqual([]);
    expect(store.typedInto("r1", "Due")).toBeUndefined();
    expect(at.kept.size).toBe(0);
  });

  it("wait while nobody answers, and are sent in order then, each once", async () => {
    const { there, queue } = setUp();
    there.losesAnswers = true;
    queue.add([cell("r1", "1", "a")]);
    await vi.advanceTimersByTimeAsync(100);
    there.away = true;
    queue.add([cell("r2", "2", "b")]);
    await rest();
    expect(queue.isAway()).toBe(true);
    expect(queue.list()).toHaveLength(2);
    expect(queue.waiting()).toBe(2);
    there.away = there.losesAnswers = false;
    queue.hurry();
    await vi.advanceTimersByTimeAsync(10);
    expect(there.sent).toEqual(['r1 {"Due":"1"}', 'r2 {"Due":"2"}']);
    expect(queue.isAway()).toBe(false);
    expect(queue.waiting()).toBe(0);
  });

  it("leave the list of what was refused as it is", async () => {
    const { there, queue } = setUp();
    there.refuses = (cells) => (cells["Due"] === "no" ? problem({}).problem : undefined);
    queue.add([cell("r1", "no", "a")]);
    await rest();
    const refused = queue.refused();
    expect(refused.map((e) => e.cells[0]?.value)).toEqual(["no"]);
    queue.add([cell("r2", "2", "b")]);
    expect(queue.refused()).toBe(refused);
    await rest();
    expect(queue.refused()).toBe(refused);
    queue.discard(refused[0]?.key ?? "");
    expect(queue.refused()).toEqual([]);
  });

  it("outlive the page, and are done once though it never heard that they were", async () => {
    const at = place();
    const first = setUp(at);
    first.there.losesAnswers = true;
    first.queue.add([cell("r1", "1", "a")]);
    await vi.advanceTimersByTimeAsync(100);
    first.queue.stop();
    first.there.losesAnswers = false;
    first.there.theirs("r1", { Due: "later" }); // somebody goes on from there
    const again = setUp(at, first.there);
    await rest();
    expect(again.there.sent).toEqual(['r1 {"Due":"1"}']);
    expect(again.there.rows.get("r1")?.cells["Due"]).toBe("later");
    expect(again.queue.list()).toEqual([]);
  });

  it("are taken up from an editor whose page ended without a word", async () => {
    const at = place();
    const first = setUp(at);
    first.queue.typing(cell("r1", "ha", "a"));
    first.queue.typing(cell("r1", "half", "a"));
    first.queue.stop();
    const again = setUp(at, first.there);
    await rest();
    expect(again.there.sent).toEqual(['r1 {"Due":"half"}']);
    again.queue.typing(cell("r2", "b", "b")); // as it was
    again.queue.stop();
    const third = setUp(at, first.there);
    third.queue.typing(cell("r2", "c", "b"));
    third.queue.typing(undefined); // given up
    third.queue.stop();
    const last = setUp(at, first.there);
    await rest();
    expect(last.there.sent).toHaveLength(1);
  });

  it("are nobody's business once their writer has left", async () => {
    const { there, queue, at } = setUp();
    there.away = true;
    queue.add([cell("r1", "1", "a")]);
    queue.stop();
    there.away = false;
    await rest();
    expect(there.sent).toEqual([]);
    expect(at.kept.size).toBe(1);
  });

  it("go over other cells of the row, and over one's own", async () => {
    const { there, queue } = setUp();
    there.theirs("r1", { Lender: "y" });
    queue.add([cell("r1", "1", "a")]);
    queue.add([cell("r1", "2", "a")]);
    await rest();
    expect(there.rows.get("r1")?.cells).toEqual({ Due: "2", Lender: "y" });
    expect(queue.list()).toEqual([]);
  });
});

describe("what is refused", () => {
  it("keeps both values where somebody else was in the cell, and holds up nothing", async () => {
    const { there, queue, store } = setUp();
    there.theirs("r1", { Due: "theirs" });
    queue.add([cell("r1", "mine", "a")]);
    queue.add([cell("r2", "2", "b")]);
    await rest();
    expect(there.sent).toEqual(['r2 {"Due":"2"}']);
    const [edit] = queue.list();
    expect(edit?.refused?.theirs).toEqual([{ row: "r1", label: "r1", column: "Due", value: "theirs" }]);
    expect(store.typedInto("r1", "Due")).toEqual({ text: "mine", why: "no" });
    queue.retry(edit?.key ?? "", { overwrite: true });
    await rest();
    expect(there.rows.get("r1")?.cells["Due"]).toBe("mine");
  });

  it("is saved with another text, without going over what others wrote meanwhile", async () => {
    const { there, queue } = setUp();
    there.refuses = (cells) => (String(cells["Due"]).length > 3 ? problem({ detail: "too long" }).problem : undefined);
    queue.add([cell("r1", "much", "a")]);
    await rest();
    there.theirs("r1", { Due: "theirs" });
    queue.retry(queue.list()[0]?.key ?? "", { text: "ok" });
    await rest();
    expect(there.rows.get("r1")?.cells["Due"]).toBe("theirs");
    expect(queue.list()[0]?.cells[0]?.value).toBe("ok");
    expect(queue.list()[0]?.refused?.theirs).toHaveLength(1);
  });

  it("takes a yes where good values would give way", async () => {
    const { there, queue } = setUp();
    const odd = [{ row: "r1", label: "r1", column: "Due", value: "soon", why: "is not a date", before: "a" }];
    there.refuses = () => problem({ type: "urn:kavlo:would-keep-odd", status: 409, odd: odd as never }).problem;
    queue.add([cell("r1", "soon", "a")]);
    await rest();
    expect(queue.list()[0]?.refused?.odd).toEqual(odd);
    queue.retry(queue.list()[0]?.key ?? "", { keepOdd: true });
    await rest();
    expect(there.rows.get("r1")?.cells["Due"]).toBe("soon");
  });

  it("gives way to what is typed anew, and to its writer", async () => {
    const { there, queue, store, at } = setUp();
    there.refuses = () => problem({}).problem;
    queue.add([cell("r1", "one", "a")]);
    await rest();
    queue.add([cell("r1", "two", "a")]);
    await rest();
    expect(queue.list().map((e) => e.cells[0]?.value)).toEqual(["two"]);
    queue.discard(queue.list()[0]?.key ?? "");
    expect(store.typedInto("r1", "Due")).toBeUndefined();
    expect(at.kept.size).toBe(0);
  });
});

it("takes over what another page left, once", async () => {
  const { there, queue } = setUp();
  const left = [{ key: "theirs", cells: [cell("r2", "left", "b")] }];
  queue.take(left);
  queue.take(left);
  await rest();
  expect(there.sent).toEqual(['r2 {"Due":"left"}']);
});

it("reads nothing from what cannot be read", () => {
  expect(readEdits("{nonsense")).toEqual([]);
  expect(readEdits('[{"key":1}]')).toEqual([]);
  expect(readEdits(null)).toEqual([]);
});
