import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, expect, it } from "vitest";
import { TypedFields } from "../pages/TypedFields";
import { freeName } from "./NameField";

afterEach(cleanup);

let now: Record<string, unknown>; // as it was changed last
beforeEach(() => (now = {}));

function Fields({ begin }: { begin: string[] }) {
  const [value, setValue] = useState<Record<string, unknown>>(
    Object.fromEntries(begin.map((name) => [name, { type: "text" }])),
  );
  return <TypedFields label="Own" add="Add field" value={value} onChange={(to) => setValue((now = to))} />;
}

const name = (n: number) => screen.getByLabelText<HTMLInputElement>(`Own: name ${n}`);
const type = (n: number, text: string) => fireEvent.change(name(n), { target: { value: text } });

it("types past the name of another part, and loses neither", () => {
  render(<Fields begin={["Name", "Second"]} />);
  type(2, "Name");
  expect(Object.keys(now)).toEqual([]); // nothing is changed yet
  expect(screen.getByRole("alert").textContent).toBe("Another has this name: it is still Second.");
  type(2, "Names");
  expect(Object.keys(now)).toEqual(["Name", "Names"]);
  expect(screen.queryByRole("alert")).toBeNull();
});

it("says that a name is missing, and keeps the one that was", () => {
  render(<Fields begin={["Name"]} />);
  type(1, "");
  fireEvent.blur(name(1));
  expect(screen.getByRole("alert").textContent).toBe("It needs a name: it is still Name.");
  expect(now).toEqual({});
});

it("takes a number as a name once it is written, so that nothing moves under the hand", () => {
  render(<Fields begin={["Name", "Year"]} />);
  type(2, "2026");
  expect([name(2).value, Object.keys(now)]).toEqual(["2026", []]);
  fireEvent.blur(name(2));
  expect(Object.keys(now).sort()).toEqual(["2026", "Name"]);
});

it("adds a part under a name that is free", () => {
  expect(freeName((n) => `Field ${n}`, ["Field 2"])).toBe("Field 3");
  render(<Fields begin={["Field 2"]} />);
  fireEvent.click(screen.getByText("Add field"));
  expect(Object.keys(now)).toEqual(["Field 2", "Field 3"]);
});
