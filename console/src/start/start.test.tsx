import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Tab } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { Greeting, NewTrackerButton } from "./Greeting";
import StartPage, { suggestions } from "./StartPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const stage = column("Stage", "choice", { options: [{ name: "Asked" }, { name: "Lent" }] });
const tab = (name: string, ...columns: Column[]): Tab => ({ id: name, name, label: "", columns, rows: 0, overdue: 0 });
const loans = tracker("admin", {
  tabs: [
    tab("Asked", column("Object"), stage, column("Due", "date"), column("Clerk", "person")),
    tab("Lent", column("Object"), stage),
  ],
});
const base = "/api/v1/trackers/t1";
const tried = { says: "When Stage changes: move.", matched: 1, rows: [], passed_over: [] };

function open(role: "admin" | "editor", more: Record<string, Answer> = {}) {
  const answers: Record<string, Answer> = {
    "GET /api/v1/trackers": { body: [{ ...loans, role }] },
    ...Object.fromEntries(["rules", "reminders", "rounds"].map((k) => [`GET ${base}/${k}`, { body: [] }])),
    ...Object.fromEntries(["rule", "reminder", "round"].map((k) => [`POST ${base}/try/${k}`, { body: tried }])),
    ...more,
  };
  const asked = service(answers);
  openPage(<StartPage />, "/t/:tracker/start", "/t/t1/start", { ...loans, role });
  return { asked, answers };
}

it("suggests what suits the tabs", () => {
  expect(suggestions(loans).map((s) => `${s.kind.name} ${s.title}`)).toEqual([
    "rule Move rows by Stage",
    "reminder Overdue rows of Asked",
    "round One morning email",
  ]);
  expect(suggestions(tracker("admin"))).toEqual([]);
});

it("sets up what one takes, and undoes it", async () => {
  const { asked, answers } = open("admin", {
    [`POST ${base}/rules`]: { body: { changes: [], followed: [], seq: 4 } },
    "POST /api/v1/undo/4": { body: { changes: [], followed: [] } },
  });
  const offer = within(await screen.findByRole("region", { name: "Move rows by Stage" }));
  expect(await offer.findByText("Matches 1 row now", { selector: "summary" })).toBeTruthy();
  answers[`GET ${base}/rules`] = { body: [{ id: "p1", kind: "rule", name: "Move rows by Stage", says: "", body: {} }] };
  fireEvent.click(offer.getByText("Set up"));
  expect(await offer.findByRole("status")).toBeTruthy();
  expect(asked.find((a) => a.key === `POST ${base}/rules`)?.body).toMatchObject({ wake: { edit: ["Stage"] } });
  answers[`GET ${base}/rules`] = { body: [] };
  fireEvent.click(offer.getByText("Undo"));
  await waitFor(() => expect(asked.some((a) => a.key === "POST /api/v1/undo/4")).toBe(true));
  expect(await offer.findByText("Change first")).toBeTruthy();
});

it("offers nothing to those who may not set up, and says why a suggestion does not work", async () => {
  open("editor");
  expect(await screen.findByText("An admin can set these up.")).toBeTruthy();
  expect(screen.queryByText("Set up")).toBeNull();
  cleanup();
  open("admin", {
    [`POST ${base}/try/rule`]: { status: 422, body: { title: "Refused", detail: "no such tab", status: 422 } },
  });
  expect(await screen.findByText("no such tab")).toBeTruthy();
});

it("greets an empty workspace, and makes a tracker with a tab", async () => {
  const answers: Record<string, Answer> = {
    "POST /api/v1/trackers": { body: { changes: [], followed: [] } },
    "GET /api/v1/trackers": { body: [{ ...tracker("admin"), name: "Tour" }] },
    [`POST ${base}/tabs`]: { body: { changes: [], followed: [] } },
  };
  const asked = service(answers);
  const { router } = openPage(<Greeting keep />, "*", "/", tracker("admin"));
  fireEvent.click(screen.getByText("Start blank"));
  const dialog = within(await screen.findByRole("dialog"));
  fireEvent.change(dialog.getByLabelText("Name"), { target: { value: "Tour" } });
  fireEvent.click(dialog.getByText("Create"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/settings"));
  expect(asked.find((a) => a.key === `POST ${base}/tabs`)?.body).toEqual({ name: "Rows" });
  cleanup();
  openPage(<Greeting keep={false} />, "*", "/", tracker("reader"));
  expect(screen.getByText(/An admin can import/)).toBeTruthy();
});

it("copies the tabs and columns of another tracker", async () => {
  const made = tracker("admin", { id: "t2", name: "Next tour" });
  const asked = service({
    "GET /api/v1/trackers": { body: [tracker("admin"), made] },
    "POST /api/v1/trackers": { body: { changes: [], followed: [] } },
  });
  const { router } = openPage(<NewTrackerButton />, "*", "/", tracker("admin"));
  fireEvent.click(screen.getByText("New tracker"));
  const dialog = within(await screen.findByRole("dialog"));
  fireEvent.change(dialog.getByLabelText("Name"), { target: { value: "Next tour" } });
  expect(dialog.getByLabelText("First tab")).toBeTruthy();
  fireEvent.mouseDown(dialog.getByLabelText("With the tabs and columns of"));
  fireEvent.click(await screen.findByTitle("Loans"));
  expect(dialog.queryByLabelText("First tab")).toBeNull();
  expect(dialog.getByText("Its rows, rules, reminders and lists are not copied.")).toBeTruthy();
  fireEvent.click(dialog.getByText("Create"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t2/settings"));
  expect(asked.filter((a) => a.key.startsWith("POST")).map((a) => a.body)).toEqual([{ name: "Next tour", like: "t1" }]);
});
