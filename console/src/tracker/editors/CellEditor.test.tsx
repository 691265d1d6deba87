import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Column, Person } from "../../api/client";
import { KeepFileContext } from "../../parts/FileField";
import { CellEditor } from "./CellEditor";
import { meant, peopleOptions } from "./options";
import { toSave, written } from "./written";

afterEach(cleanup);

const person = (name: string, address: string) => ({ id: 1, name, address, access: "editor" }) as unknown as Person;
const people = [
  person("Marta Quell", "marta.quell@example.org"),
  person("Joren Aske", "joren@example.org"),
  person("Tilde Brannock", "tilde@example.org"),
  person("Tilde Brannock", "t.brannock@example.org"),
];
const column = (c: Partial<Column>): Column => ({ id: "c1", name: "It", type: "text", bad_input: "mark", ...c });
const stage = column({
  type: "choice",
  options: [{ name: "Requested" }, { name: "Agreed" }, { name: "Agreed in part" }, { name: "Returned" }],
});

function open(c: Column, text = "") {
  const told = { onChange: vi.fn(), onDone: vi.fn(), onCancel: vi.fn() };
  render(<CellEditor column={c} text={text} people={people} {...told} />);
  return { ...told, field: screen.getByLabelText(c.name) };
}

const type = (field: HTMLElement, text: string) => fireEvent.change(field, { target: { value: text } });
const press = (field: HTMLElement, key: string, more = {}) => fireEvent.keyDown(field, { key, ...more });

describe("choosing", () => {
  it("takes the one that what is typed can mean, and of two neither", async () => {
    const { field, onDone } = open(stage);
    type(field, "re");
    press(field, "Enter");
    expect(onDone).not.toHaveBeenCalled();
    expect(await screen.findByRole("alert")).toBeDefined();
    type(field, "g");
    press(field, "Enter");
    expect(onDone).not.toHaveBeenCalled();
    type(field, "ret");
    press(field, "Enter");
    expect(onDone).toHaveBeenCalledWith("Returned", "Enter", false);
  });

  it("takes a whole name before one that begins with it", () => {
    const { field, onDone } = open(stage);
    type(field, "agreed");
    press(field, "Tab");
    expect(onDone).toHaveBeenCalledWith("Agreed", "Tab", false);
  });

  it("goes through the list with arrows, from all there is", async () => {
    const { field, onDone } = open(stage, "Agreed");
    expect(await screen.findAllByRole("option")).toHaveLength(4);
    press(field, "ArrowDown");
    press(field, "ArrowDown");
    press(field, "ArrowUp");
    press(field, "Enter");
    expect(onDone).toHaveBeenCalledWith("Requested", "Enter", false);
  });

  it("adds several one after the other, and takes them out", async () => {
    const { field, onDone, onChange } = open(column({ type: "person", several: true }));
    type(field, "mar");
    press(field, "Enter");
    expect(field).toHaveProperty("value", "Marta Quell; ");
    fireEvent.click(await screen.findByText("Joren Aske"));
    expect(onChange).toHaveBeenLastCalledWith("Marta Quell; Joren Aske");
    fireEvent.click(screen.getByText("Marta Quell"));
    press(field, "Enter");
    expect(onDone).toHaveBeenCalledWith("Joren Aske", "Enter", false);
  });

  it("leaves what is none of them to the service", () => {
    const { field, onDone } = open(stage);
    type(field, "Lost");
    press(field, "Enter");
    expect(onDone).toHaveBeenCalledWith("Lost", "Enter", false);
  });

  it("tells two people of one name apart", () => {
    const options = peopleOptions(people);
    expect(meant(options, "tilde")).toBeUndefined();
    expect(meant(options, "t.brannock@example.org")?.name).toBe("Tilde Brannock <t.brannock@example.org>");
    const owner = column({ type: "person", several: true });
    expect(written(owner, ["marta.quell@example.org", "tilde@example.org", "gone@example.org"], people)).toBe(
      "Marta Quell; Tilde Brannock <tilde@example.org>; gone@example.org",
    );
    expect(toSave(owner, "joren; mar", people, "")).toBe("joren; Marta Quell");
  });
});

describe("days", () => {
  it("are typed, gone to by arrows, and picked", async () => {
    const { field, onDone } = open(column({ type: "date" }), "2026-12-04");
    press(field, "ArrowDown");
    expect(field).toHaveProperty("value", "2026-12-05");
    press(field, "PageUp");
    expect(field).toHaveProperty("value", "2026-11-05");
    fireEvent.click(await screen.findByTitle("2026-11-20"));
    expect(onDone).toHaveBeenCalledWith("2026-11-20", "Enter", false);
  });

  it("are told before they are saved where they are reckoned, and keep their time", async () => {
    const { field, onDone } = open(column({ type: "date-time" }));
    type(field, "+3 8:15");
    expect((await screen.findByRole("status")).textContent).toMatch(/^\w{3} \d{4}-\d\d-\d\d 08:15$/);
    press(field, "Enter");
    expect(onDone.mock.calls[0]?.[0]).toMatch(/^\d{4}-\d\d-\d\dT08:15$/);
  });
});

it("gives stars by one click", async () => {
  const { onDone } = open(column({ type: "number", format: "rating" }), "2");
  fireEvent.click(await screen.findByText("4"));
  expect(onDone).toHaveBeenCalledWith("4", "Enter", false);
});

it("keeps the words of a link beside its address", async () => {
  const { field, onDone } = open(column({ type: "link" }), "https://example.org/a");
  fireEvent.change(await screen.findByLabelText("Text shown"), { target: { value: "The file" } });
  expect(field).toHaveProperty("value", "The file <https://example.org/a>");
  press(field, "Enter");
  expect(onDone).toHaveBeenCalledWith("The file <https://example.org/a>", "Enter", false);
});

it("goes on to the words of a link by Tab, and leaves them by Escape", () => {
  const { field, onDone, onCancel } = open(column({ type: "link" }));
  expect(press(field, "Tab")).toBe(true); // the browser moves on
  const words = screen.getByLabelText("Text shown");
  fireEvent.blur(field, { relatedTarget: words });
  expect(onDone).not.toHaveBeenCalled();
  press(words, "Escape");
  expect(onCancel).toHaveBeenCalledTimes(1);
  act(() => field.blur());
  expect(onDone).not.toHaveBeenCalled();
});

it("uploads a file into its cell, and says where that is refused", async () => {
  const onDone = vi.fn();
  const keep = vi
    .fn()
    .mockRejectedValueOnce(new Error("too large"))
    .mockResolvedValue({ value: "lens.png </api/v1/attachments/a1>" });
  render(
    <KeepFileContext value={keep}>
      <CellEditor
        column={column({ type: "file" })}
        text=""
        people={[]}
        onChange={vi.fn()}
        onDone={onDone}
        onCancel={vi.fn()}
      />
    </KeepFileContext>,
  );
  await screen.findByText("Choose a file");
  const choose = () => {
    const field = document.querySelector("input[type=file]");
    if (field) fireEvent.change(field, { target: { files: [new File(["x"], "lens.png")] } });
  };
  choose();
  await screen.findByText("lens.png was not uploaded: too large");
  choose();
  await waitFor(() => expect(onDone).toHaveBeenCalledWith("lens.png </api/v1/attachments/a1>", "Enter", false));
});

it("takes what is typed along when one clicks elsewhere, and nothing after Escape", () => {
  const { field, onDone, onCancel } = open(column({}), "Bell");
  type(field, "Bell\nand rope");
  press(field, "Escape");
  act(() => field.blur());
  expect(onCancel).toHaveBeenCalled();
  expect(onDone).not.toHaveBeenCalled();
  cleanup();
  const again = open(column({}), "Bell");
  type(again.field, "Bells");
  act(() => again.field.blur());
  expect(again.onDone).toHaveBeenCalledWith("Bells", "", false);
});
