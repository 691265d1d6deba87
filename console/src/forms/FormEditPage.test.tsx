import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker } from "../testing/page";
import FormEditPage, { formLacks, readFields, writeFields } from "./FormEditPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.sessionStorage.clear();
});

const loans = tracker("admin", {
  tabs: [
    {
      id: "b1",
      name: "Asked",
      label: "",
      columns: ["What", "Who", "Stage"].map((name) => column(name)),
      rows: 0,
      overdue: 0,
    },
  ],
});
const base = "/api/v1/trackers/t1";

it("reads fields as they are written, and writes them so", () => {
  const list = [
    "What",
    { Who: "Your name" },
    { Stage: { help: "Which", required: "yes" } },
    { Due: { required: "yes" } },
  ];
  expect(writeFields(readFields(list))).toEqual(list);
  expect(readFields("x")).toEqual([]);
  expect(formLacks({ fields: [] })).toEqual(["a name", "the tab that rows are added to", "a field"]);
});

it("makes a form: what it asks, in which order, and what it sets", async () => {
  const asked = service({
    "GET /api/v1/trackers": { body: [loans] },
    "GET /api/v1/people": { body: [] },
    [`POST ${base}/try/form`]: { body: { says: "Adds rows to Asked.", rows: [], passed_over: [] } },
    [`POST ${base}/forms`]: { body: { changes: [], followed: [], seq: 2 } },
  });
  const { router } = openPage(<FormEditPage />, "/t/:tracker/forms/:form/edit", "/t/t1/forms/new/edit", loans);
  expect(await screen.findByText("Missing: a name.")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Ask" } });
  fireEvent.change(screen.getByLabelText("Help for Who"), { target: { value: "Your name" } });
  fireEvent.click(screen.getByLabelText("Move Who up"));
  fireEvent.click(screen.getByLabelText("Delete field Stage"));
  fireEvent.click(screen.getAllByText("Required")[0] ?? document.body);
  fireEvent.click(screen.getByText("Set another cell"));
  fireEvent.change(screen.getByLabelText("What What is set to"), { target: { value: "by form" } });
  expect(await screen.findByText("Adds rows to Asked.")).toBeTruthy();
  fireEvent.click(screen.getByText("Save"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/forms"));
  expect(asked.find((a) => a.key === `POST ${base}/forms`)?.body).toEqual({
    name: "Ask",
    tab: "Asked",
    fields: [{ Who: { help: "Your name", required: "yes" } }, "What"],
    set: { What: "by form" },
  });
});
