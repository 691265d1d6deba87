import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { placed } from "../parts/useOrder";
import { ColumnsField } from "./ColumnsField";

afterEach(cleanup);

it("puts one of a list at another place", () => {
  expect(placed(["a", "b", "c"], 0, 2)).toEqual(["b", "c", "a"]);
  expect(placed(["a", "b", "c"], 2, 0)).toEqual(["c", "a", "b"]);
  expect(placed(["a"], 4, 0)).toEqual(["a"]);
});

function open(value: string[]) {
  const onChange = vi.fn<(names: string[]) => void>();
  render(<ColumnsField label="Shown" columns={["Due", "Object", "Value"]} value={value} onChange={onChange} />);
  return onChange;
}

it("orders columns by dragging, and with Alt and an arrow", () => {
  const changed = open(["Object", "Due"]);
  const dataTransfer = { setData: () => undefined, effectAllowed: "" };
  fireEvent.dragStart(screen.getByLabelText("Move Due"), { dataTransfer });
  const onto = screen.getByText("Object");
  fireEvent.dragOver(onto, { dataTransfer });
  expect(onto.hasAttribute("data-over")).toBe(true);
  fireEvent.drop(onto, { dataTransfer });
  expect(changed).toHaveBeenLastCalledWith(["Due", "Object"]);
  fireEvent.keyDown(screen.getByLabelText("Move Object"), { key: "ArrowRight", altKey: true });
  expect(changed).toHaveBeenCalledTimes(2);
  fireEvent.keyDown(screen.getByLabelText("Move Object"), { key: "ArrowLeft", altKey: true });
  fireEvent.keyDown(screen.getByLabelText("Move Object"), { key: "ArrowRight" });
  expect(changed).toHaveBeenCalledTimes(2); // there is no place before the first; without Alt nothing moves
});

it("leaves columns out and adds others", () => {
  const changed = open(["Object"]);
  expect(screen.queryByLabelText("Move Object")).toBeNull();
  fireEvent.click(screen.getByLabelText("Leave out Object"));
  expect(changed).toHaveBeenLastCalledWith([]);
  fireEvent.mouseDown(screen.getByLabelText("Add to shown"));
  fireEvent.click(screen.getByTitle("Value"));
  expect(changed).toHaveBeenLastCalledWith(["Object", "Value"]);
});
