import { act, cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Dropdown } from "antd";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { openPage, service, tracker } from "../testing/page";
import { column, row } from "../testing/samples";
import { Cards } from "./Cards";
import { RowStore } from "./rowStore";
import type { CellEdit } from "./useEdits";

const columns = [
  column("Object"),
  column("Stage", { type: "choice", options: [{ name: "Requested" }, { name: "Agreed" }] }),
  column("Flag", { type: "checkbox" }),
  column("Worth", { type: "number", clause: "1 + 1", read_only: true }),
  column("Remarks"),
];

beforeEach(() => {
  // nothing has a height in jsdom, and so nothing would be in sight
  vi.spyOn(Element.prototype, "clientHeight", "get").mockReturnValue(600);
  vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(120);
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

function open(go?: string) {
  service({});
  const store = new RowStore();
  store.load("b-Agreed", [
    row(
      "r1",
      { Object: "Bell", Stage: "Agreed", Flag: true, Worth: 2, Remarks: null },
      { notes: { Stage: "by phone" } },
    ),
    row("r2", { Object: "Drum", Stage: "Lost", Flag: false, Worth: 2 }, { odd: ["Stage"] }),
  ]);
  const done = {
    set: [] as CellEdit[],
    typing: [] as unknown[],
    active: [] as (string | undefined)[],
    sight: [] as string[],
  };
  const cards = (
    <Cards
      store={store}
      ids={["r1", "r2"]}
      columns={columns}
      label="Object"
      people={[]}
      go={go}
      name="Agreed"
      onActive={(r, c) => void done.active.push(r && `${r.label}, ${c?.name}`)}
      onSight={(ids) => {
        done.sight = ids;
      }}
      onSet={(edit) => void done.set.push(edit)}
      onTyping={(edit) => void done.typing.push(edit?.value)}
      beside={(_, name) => (name === "Remarks" ? <p>beside it</p> : null)}
      actions={
        <Dropdown menu={{ items: [{ key: "delete", label: "Delete row" }] }} trigger={["click"]}>
          <button>Rows</button>
        </Dropdown>
      }
    />
  );
  openPage(cards, "/t/:tracker", "/t/t1", tracker("editor"));
  return { store, done };
}

const openCard = async (name: string) => {
  fireEvent.click(await screen.findByRole("button", { name }));
  return screen.getByRole("region", { name });
};

describe("rows as cards", () => {
  it("show what is filled in, and say where something does not fit", async () => {
    const { done } = open();
    const cards = await screen.findAllByRole("article");
    expect(cards.map((c) => [...c.querySelectorAll("dt")].map((d) => d.textContent))).toEqual([
      ["Stage", "Flag", "Worth"],
      ["Stage", "Worth"],
    ]);
    expect(cards[1]?.textContent).toContain("does not fit");
    expect(done.sight.length).toBeGreaterThan(0);
  });

  it("open, and close by Back and by Escape", async () => {
    const { done } = open();
    const card = await openCard("Bell");
    expect([...card.querySelectorAll("dt")].map((d) => d.textContent)).toEqual(columns.map((c) => c.name));
    expect(card.textContent).toContain("by phone");
    expect(card.textContent).toContain("beside it");
    fireEvent.keyDown(card, { key: "Escape" });
    expect(screen.queryByRole("region")).toBeNull();
    await openCard("Drum");
    fireEvent.click(screen.getByText("Back"));
    expect(screen.queryByRole("region")).toBeNull();
    expect(done.active).toEqual(["Bell, Object", undefined, "Drum, Object", undefined]);
  });

  it("stay when Escape closes a menu over them", async () => {
    open();
    const card = await openCard("Bell");
    const menu = within(card).getByText("Rows");
    fireEvent.click(menu);
    await screen.findByText("Delete row");
    fireEvent.keyDown(menu, { key: "Escape" });
    await waitFor(() => expect(document.querySelector(".ant-dropdown-open")).toBeNull());
    expect(screen.getByRole("region", { name: "Bell" })).toBe(card);
    fireEvent.keyDown(menu, { key: "Escape" });
    expect(screen.queryByRole("region")).toBeNull();
  });

  it("are edited value by value, but for what is worked out", async () => {
    const { done } = open();
    const card = await openCard("Bell");
    expect(within(card).queryByLabelText("Edit Worth")).toBeNull();
    fireEvent.click(within(card).getByLabelText("Edit Remarks"));
    const field = card.querySelector<HTMLInputElement>(".cell-editor");
    if (!field) throw new Error("there is no field to type in");
    fireEvent.change(field, { target: { value: "fragile" } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(done.set.map((e) => [e.row.id, e.column.name, e.value])).toEqual([["r1", "Remarks", "fragile"]]);
    expect(done.active.at(-1)).toBe("Bell, Remarks");
    fireEvent.click(within(card).getByLabelText("Flag"));
    expect(done.set.at(-1)).toMatchObject({ value: false, column: { name: "Flag" } });
  });

  it("leave a value as it was after Escape, and where nothing was changed", async () => {
    const { done } = open();
    const card = await openCard("Bell");
    const edit = () => {
      fireEvent.click(within(card).getByLabelText("Edit Object"));
      return card.querySelector(".cell-editor") as HTMLInputElement;
    };
    const field = edit();
    fireEvent.change(field, { target: { value: "Gong" } });
    fireEvent.keyDown(field, { key: "Escape" });
    expect(screen.queryByRole("region")).not.toBeNull();
    fireEvent.keyDown(edit(), { key: "Enter" });
    expect(done.set).toEqual([]);
  });

  it("keep what is being typed when the page is closed", async () => {
    const { done } = open();
    const card = await openCard("Bell");
    fireEvent.click(within(card).getByLabelText("Edit Remarks"));
    fireEvent.change(card.querySelector(".cell-editor") as Element, { target: { value: "half" } });
    act(() => void window.dispatchEvent(new Event("pagehide")));
    expect(done.set.map((e) => e.value)).toEqual(["half"]);
  });

  it("open the row of the address, and say that one was deleted", async () => {
    const { store } = open("r2");
    await waitFor(() => expect(screen.getByRole("region", { name: "Drum" })).toBeTruthy());
    act(() => store.drop("r2"));
    expect(screen.getByText("The row was deleted.")).toBeTruthy();
  });

  it("keep what is being typed when the row is deleted", async () => {
    const { store, done } = open();
    const card = await openCard("Bell");
    fireEvent.click(within(card).getByLabelText("Edit Remarks"));
    fireEvent.change(card.querySelector(".cell-editor") as Element, { target: { value: "half" } });
    act(() => store.drop("r1"));
    expect(done.set.map((e) => [e.row.id, e.value])).toEqual([["r1", "half"]]);
  });
});
