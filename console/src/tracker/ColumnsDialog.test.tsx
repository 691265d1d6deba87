import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Tab } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { ColumnsDialog } from "./ColumnsDialog";
import type { Edits } from "./useEdits";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const tab: Tab = {
  id: "b1",
  name: "Agreed",
  label: "Object",
  columns: [
    { id: "c1", name: "Object", type: "text", bad_input: "mark" },
    { id: "c2", name: "Stage", type: "choice", bad_input: "refuse", options: [{ name: "Agreed", colour: "blue" }] },
  ],
  rows: 0,
  overdue: 0,
};
const base = "/api/v1/trackers/t1/tabs/b1/columns";
const set = (changes: number, more = {}) => ({
  body: {
    changes: Array(changes).fill({ kind: "reshape", because: "" }),
    followed: [],
    passed_over: [],
    counts: {},
    ...more,
  },
});

function open(answers: Record<string, Answer>) {
  const accept = vi.fn();
  const asked = service(answers);
  const edits = { accept } as unknown as Edits;
  const shown = tracker("admin", { tabs: [tab] });
  let change: (to: Tab) => void = () => undefined; // as somebody else does
  const Shown = () => {
    const [now, setNow] = useState(tab);
    change = setNow;
    return <ColumnsDialog tracker={shown} tab={now} edits={edits} onClose={() => undefined} />;
  };
  openPage(<Shown />, "/", "/", shown);
  return { asked, accept, change: (to: Tab) => act(() => change(to)) };
}

it("adds a column, with what it would do said before", async () => {
  const { asked, accept } = open({ [`POST ${base}`]: set(1, { warnings: ["28 rows get no value"] }) });
  fireEvent.click(screen.getByText("Add a column"));
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Fragility" } });
  fireEvent.click(screen.getByLabelText("Required"));
  expect(await screen.findByText("28 rows get no value")).toBeTruthy();
  expect(asked.at(-1)).toMatchObject({
    query: "?preview=yes",
    body: { name: "Fragility", definition: { required: true } },
  });
  fireEvent.click(screen.getByText("Add column"));
  await waitFor(() => expect(accept).toHaveBeenCalledOnce());
  expect(asked.at(-1)?.query).toBe("");
});

it("changes a column, and says where it is refused or as it was", async () => {
  const refused = { status: 422, body: { title: "Refused", detail: "a rule needs the option Agreed", status: 422 } };
  open({ [`PATCH ${base}/c2`]: refused, [`PATCH ${base}/c1`]: set(0) });
  fireEvent.click(screen.getByText("Stage"));
  fireEvent.change(screen.getByLabelText(/Options, one per line/), { target: { value: "Held = amber" } });
  expect(await screen.findByText("a rule needs the option Agreed")).toBeTruthy();
  expect(screen.getByText("Save").closest("button")?.disabled).toBe(true);
  fireEvent.click(screen.getByText("Object"));
  expect(await screen.findByText("It is as it was.")).toBeTruthy();
  expect(screen.getByText("Save").closest("button")?.disabled).toBe(true);
});

it("copies a column, with its values or without", async () => {
  const { asked, accept } = open({ [`POST ${base}`]: set(2), [`PATCH ${base}/c2`]: set(0) });
  fireEvent.click(screen.getByText("Stage"));
  fireEvent.click(screen.getByText("Copy column"));
  expect((await screen.findByLabelText<HTMLInputElement>("Name")).value).toBe("Stage, copy");
  const sent = { name: "Stage, copy", after: "Stage", like: "c2", copy_values: true, definition: { required: null } };
  await waitFor(() => expect(asked.at(-1)).toMatchObject({ query: "?preview=yes", body: sent }));
  fireEvent.click(screen.getByLabelText("Copy the values of Stage too"));
  await waitFor(() => expect(asked.at(-1)?.body).toMatchObject({ copy_values: false }));
  fireEvent.click(await screen.findByText("Add column"));
  await waitFor(() => expect(accept).toHaveBeenCalledOnce());
  expect(asked.at(-1)).toMatchObject({ query: "", body: { ...sent, copy_values: false } });
});

it("deletes a column after asking", async () => {
  const { asked, accept } = open({ [`DELETE ${base}/c1`]: set(1), [`PATCH ${base}/c1`]: set(0) });
  fireEvent.click(screen.getByText("Object"));
  fireEvent.click(screen.getByText("Delete column"));
  expect(await screen.findByText(/Undo brings it back/)).toBeTruthy();
  await waitFor(() =>
    expect(asked.filter((a) => a.key.startsWith("DELETE")).map((a) => a.query)).toEqual(["?preview=yes"]),
  );
  await waitFor(() =>
    expect(screen.getByText("Delete column", { selector: ".ant-popconfirm *" }).closest("button")?.disabled).toBe(
      false,
    ),
  );
  fireEvent.click(screen.getByText("Delete column", { selector: ".ant-popconfirm *" }));
  await waitFor(() => expect(accept).toHaveBeenCalledOnce());
});

it("saves what one has changed of a column alone, and says what somebody else has changed of that", async () => {
  const { asked, change } = open({ [`PATCH ${base}/c2`]: set(1) });
  fireEvent.click(screen.getByText("Stage"));
  fireEvent.change(screen.getByLabelText("Default"), { target: { value: "Agreed" } });
  const [object, stage] = tab.columns as [Column, Column];
  change({ ...tab, columns: [object, { ...stage, default: "Held", required: true }] });
  expect(screen.getByText(/since you began: Default \(now Held\)/)).toBeTruthy();
  expect(screen.getByLabelText<HTMLInputElement>("Required").checked).toBe(true);
  await waitFor(() => expect(asked.at(-1)?.body).toEqual({ definition: { default: "Agreed" } }));
  change({ ...tab, columns: [object, { ...stage, default: "Agreed" }] });
  expect(screen.queryByText(/since you began/)).toBeNull();
  change({ ...tab, columns: [object] });
  expect(screen.getByText("Someone has deleted this column.")).toBeTruthy();
});
