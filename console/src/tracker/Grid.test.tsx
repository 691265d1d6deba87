import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { column, row } from "../testing/samples";
import { plain } from "./arrangement";
import { Grid, type Chosen } from "./Grid";
import { RowStore } from "./rowStore";
import type { CellEdit } from "./useEdits";

const columns = [
  column("Object"),
  column("Stage", { type: "choice", options: [{ name: "Requested" }, { name: "Agreed" }] }),
  column("Value", { type: "number" }),
  column("Flag", { type: "checkbox" }),
  column("Worth", { type: "number", clause: "Value * 2", read_only: true }),
];

beforeEach(() => {
  // nothing has a size in jsdom, and so nothing would be in sight
  vi.spyOn(Element.prototype, "clientHeight", "get").mockReturnValue(600);
  vi.spyOn(Element.prototype, "clientWidth", "get").mockReturnValue(1200);
  Element.prototype.scrollTo = () => undefined;
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

type Done = {
  set: [string, string, unknown][];
  many: CellEdit[][];
  chosen?: Chosen;
  calls: string[];
  typing: unknown[];
};

function open() {
  const store = new RowStore();
  const rows = ["Bell", "Drum", "Gong", "Lens"].map((name, i) =>
    row(`r${i}`, { Object: name, Stage: "Requested", Value: 10 * i, Flag: i === 0, Worth: 20 * i }),
  );
  store.load("b-Agreed", rows);
  const done: Done = { set: [], many: [], calls: [], typing: [] };
  const call = (name: string) => () => void done.calls.push(name);
  let leave: (id: string) => void = () => undefined;
  function Page() {
    const [ids, setIds] = useState(rows.map((r) => r.id));
    const [arrangement, setArrangement] = useState(plain);
    leave = (id) => setIds((all) => all.filter((one) => one !== id));
    return (
      <Grid
        store={store}
        ids={ids}
        tab="b-Agreed"
        columns={columns}
        label="Object"
        arrangement={arrangement}
        onArrange={(part) => setArrangement((a) => ({ ...a, ...part }))}
        onFind={call("find")}
        onReplace={call("replace")}
        people={[]}
        name="Agreed"
        onActive={(_r, _c, chosen) => {
          done.chosen = chosen;
        }}
        onSight={() => undefined}
        onSet={(e) => void done.set.push([e.row.id, e.column.name, e.value])}
        onTyping={(e) => void done.typing.push(e?.value)}
        onSetMany={(all) => void done.many.push(all)}
        beside={(id, name) => (id === "r1" && name === "Value" ? <p>beside it</p> : null)}
        onAdrift={(id) => void done.calls.push(`adrift ${id}`)}
        others={new Map([["r2", new Map([["Stage", ["Marta Quell"]]])]])}
        onPaste={call("paste")}
        onUndo={call("undo")}
        onRedo={call("redo")}
        onWhy={call("why")}
      />
    );
  }
  render(<Page />);
  return { done, leave: (id: string) => act(() => leave(id)) };
}

const grid = () => screen.getByRole("grid");
const cell = (row: number, col: number) => {
  const found = grid().querySelector<HTMLElement>(`[data-row="${row}"] > [data-col="${col}"]`);
  if (!found) throw new Error(`there is no cell ${row}, ${col}`);
  return found;
};
const click = (row: number, col: number, more = {}) => fireEvent.mouseDown(cell(row, col), { button: 0, ...more });
const key = (name: string, more = {}) => fireEvent.keyDown(grid(), { key: name, ...more });
const editor = () => {
  const field = grid().querySelector<HTMLInputElement>(".cell-editor");
  if (!field) throw new Error("nobody types");
  return field;
};
const type = (text: string) => fireEvent.change(editor(), { target: { value: text } });
const active = () => {
  const at = grid().querySelector(".cell-active");
  return `${at?.parentElement?.getAttribute("data-row")}, ${at?.getAttribute("data-col")}`;
};

describe("the grid", () => {
  it("draws rows and heads, and marks who else is where", () => {
    open();
    expect(screen.getAllByRole("row")).toHaveLength(5);
    expect(screen.getAllByRole("columnheader").map((h) => h.textContent?.trim())).toEqual(columns.map((c) => c.name));
    expect(cell(0, 4).getAttribute("aria-readonly")).toBe("true");
    expect(cell(2, 1).querySelector(".cell-who")?.textContent).toBe("MQ");
    expect(cell(2, 1).getAttribute("aria-description")).toBe("Here: Marta Quell");
  });

  it("goes by arrows, and stops at the edges", () => {
    open();
    click(0, 0);
    for (const name of ["ArrowDown", "ArrowRight", "ArrowRight", "ArrowUp", "ArrowUp"]) key(name);
    expect(active()).toBe("0, 2");
    key("End");
    expect(active()).toBe("0, 4");
    key("End", { ctrlKey: true });
    expect(active()).toBe("3, 4");
    key("Home", { ctrlKey: true });
    expect(active()).toBe("0, 0");
  });

  it("selects ranges, rows, columns and all", () => {
    const { done } = open();
    click(1, 1);
    key("ArrowDown", { shiftKey: true });
    key("ArrowRight", { shiftKey: true });
    expect(done.chosen).toEqual({ rows: ["r1", "r2"], columns: ["Stage", "Value"] });
    key(" ", { shiftKey: true });
    expect(done.chosen?.columns).toHaveLength(5);
    click(1, 1);
    key(" ", { ctrlKey: true });
    expect(done.chosen).toEqual({ rows: ["r0", "r1", "r2", "r3"], columns: ["Stage"] });
    key("a", { ctrlKey: true });
    expect(done.chosen).toMatchObject({ rows: { length: 4 }, columns: { length: 5 } });
    click(0, 0);
    click(2, 1, { shiftKey: true });
    expect(done.chosen).toEqual({ rows: ["r0", "r1", "r2"], columns: ["Object", "Stage"] });
  });

  it("types over a cell, saves by Enter and goes down, and is left as it was by Escape", () => {
    const { done } = open();
    click(1, 0);
    key("D");
    expect(editor().value).toBe("D");
    type("Drums");
    fireEvent.keyDown(editor(), { key: "Enter" });
    expect(done.set).toEqual([["r1", "Object", "Drums"]]);
    expect(active()).toBe("2, 0");
    key("F2");
    expect(editor().value).toBe("Gong");
    type("nothing");
    fireEvent.keyDown(editor(), { key: "Escape" });
    expect(done.set).toHaveLength(1);
  });

  it("saves what is typed by a click elsewhere, and when the page is closed", () => {
    const { done } = open();
    click(1, 0);
    key("Enter");
    type("Drums");
    click(3, 2);
    expect(done.set).toEqual([["r1", "Object", "Drums"]]);
    key("7");
    act(() => void window.dispatchEvent(new Event("pagehide")));
    expect(done.set.at(-1)).toEqual(["r3", "Value", "7"]);
  });

  it("tells at each key what is typed, and saves it when the grid is taken away", () => {
    const { done } = open();
    click(1, 0);
    key("D");
    type("Dr");
    type("Dru");
    expect(done.typing).toEqual(["D", "Dr", "Dru"]);
    fireEvent.keyDown(editor(), { key: "Escape" });
    expect(done.typing.at(-1)).toBeUndefined();
    key("Enter");
    type("Drums");
    cleanup(); // as when the session has ended and the sign-in page comes
    expect(done.set).toEqual([["r1", "Object", "Drums"]]);
    expect(done.typing.at(-1)).toBeUndefined();
  });

  it("does not edit what is worked out, and ticks with the space bar", () => {
    const { done } = open();
    click(0, 4);
    key("5");
    key("Enter");
    expect(grid().querySelector(".cell-editor")).toBeNull();
    click(0, 3);
    key(" ");
    expect(done.set).toEqual([["r0", "Flag", false]]);
  });

  it("clears and fills what is selected, but for what is worked out", () => {
    const { done } = open();
    click(1, 2);
    click(2, 4, { shiftKey: true });
    key("Delete");
    expect(done.many[0]?.map((e) => [e.row.id, e.column.name, e.value])).toEqual([
      ["r1", "Value", null],
      ["r1", "Flag", null],
      ["r2", "Value", null],
      ["r2", "Flag", null],
    ]);
    click(1, 0);
    click(3, 0, { shiftKey: true });
    key("d", { ctrlKey: true });
    expect(done.many[1]?.map((e) => e.value)).toEqual(["Drum", "Drum"]);
  });

  it("keeps a row that leaves while one types in it, and saves into that row", () => {
    const { done, leave } = open();
    click(1, 0);
    key("Enter");
    type("Drums");
    leave("r1");
    expect(editor().value).toBe("Drums");
    fireEvent.keyDown(editor(), { key: "Enter" });
    expect(done.set).toEqual([["r1", "Object", "Drums"]]);
  });

  it("changes nothing by a key that was meant for a row that left", () => {
    const { done, leave } = open();
    click(1, 0);
    leave("r1");
    key("Delete");
    key("x");
    expect(done.calls).toEqual(["adrift r1", "adrift r1"]);
    expect([done.set, done.many]).toEqual([[], []]);
  });

  it("hands on the keys that are for the page", () => {
    const { done } = open();
    click(0, 0);
    for (const letter of ["z", "y", "f", "h"]) key(letter, { ctrlKey: true });
    key("z", { ctrlKey: true, shiftKey: true });
    key("F4");
    expect(done.calls).toEqual(["undo", "redo", "find", "replace", "redo", "why"]);
    expect(key("Tab")).toBe(true); // which goes on to what comes after the grid
  });

  it("says at the cell at hand what there is to say", () => {
    open();
    click(1, 1);
    expect(screen.queryByText("beside it")).toBeNull();
    key("ArrowRight");
    expect(screen.getByText("beside it")).toBeTruthy();
  });
});
