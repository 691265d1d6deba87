import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Person, Row } from "../api/client";
import { replaced } from "./replace";
import { ReplaceDialog } from "./ReplaceDialog";
import { RowStore } from "./rowStore";
import { column } from "../testing/samples";

afterEach(cleanup);

describe("replacing", () => {
  const wanted = { find: "bell", by: "gong", whole: false, exact: false };
  it.each([
    ["Ship's Bell, bell rope", {}, "Ship's gong, gong rope"],
    ["Ship's Bell", { exact: true }, undefined],
    ["Bell", { whole: true }, "gong"],
    ["Bell rope", { whole: true }, undefined],
    ["a.b", { find: ".", by: "$&" }, "a$&b"],
    ["anything", { find: "" }, undefined],
    ["bell", { by: "bell" }, undefined],
  ])("%s", (text, more, now) => expect(replaced(text, { ...wanted, ...more })).toBe(now));
});

const columns = [column("Object"), column("Registrar", { type: "person" }), column("Left", { clause: "1" })];
const people = [{ name: "Marta Quell", address: "marta@example.org" }] as Person[];

function open(chosen: string[] = []) {
  const store = new RowStore();
  const row = (id: string, object: string) =>
    ({
      id,
      label: object,
      version: 1,
      tab_id: "b1",
      pos: 1,
      cells: { Object: object, Registrar: "marta@example.org", Left: "Marta" },
    }) as unknown as Row;
  store.load("b1", [row("r1", "Marta's bell"), row("r2", "Oar")]);
  const onReplace = vi.fn();
  render(
    <ReplaceDialog
      store={store}
      ids={["r1", "r2"]}
      chosen={chosen}
      columns={columns}
      people={people}
      onReplace={onReplace}
      onClose={vi.fn()}
    />,
  );
  const write = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
  return { onReplace, write };
}

it("shows what it would write before it writes it, people by name", () => {
  const { onReplace, write } = open();
  write("Find", "marta");
  write("Replace with", "Joren");
  expect(screen.getByText("Marta's bell → Joren's bell")).toBeDefined();
  expect(screen.getAllByText("Marta Quell → Joren Quell")).toHaveLength(2);
  fireEvent.click(screen.getByText("Replace in 3 cells"));
  expect(onReplace.mock.calls[0]?.[0].map((e: { value: string }) => e.value)).toEqual([
    "Joren's bell",
    "Joren Quell",
    "Joren Quell",
  ]);
});

it("keeps to the selected rows and to one column where that is wanted, and says where nothing is", () => {
  const { write } = open(["r2"]);
  write("Find", "marta");
  expect(screen.getByText("Replace in 1 cell")).toBeDefined();
  write("Find", "lens");
  expect(screen.getByText("No cell holds this.")).toBeDefined();
  expect(screen.getByText("Replace").closest("button")).toHaveProperty("disabled", true);
});
