import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Tab } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import SettingsPage from "./SettingsPage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const tab = (id: string, name: string): Tab => ({ id, name, label: "", columns: [], rows: 2, overdue: 0 });
const loans = (role: "admin" | "editor") => tracker(role, { tabs: [tab("b1", "Asked"), tab("b2", "Lent")] });
const base = "/api/v1/trackers/t1";
const done = { body: { changes: [], followed: [], seq: 5 } };

function open(role: "admin" | "editor", more: Record<string, Answer> = {}) {
  const asked = service({ "GET /api/v1/trackers": { body: [loans(role)] }, ...more });
  openPage(<SettingsPage />, "/t/:tracker/settings", "/t/t1/settings", loans(role));
  return asked;
}
const bodies = (asked: { key: string; body: unknown }[], key: string) =>
  asked.filter((a) => a.key === key).map((a) => a.body);

it("renames, moves and adds tabs, each with a way to undo", async () => {
  const asked = open("admin", {
    [`PATCH ${base}/tabs/b1`]: done,
    [`PATCH ${base}/tabs/b2`]: done,
    [`POST ${base}/tabs`]: done,
    [`PATCH ${base}`]: done,
    "POST /api/v1/undo/5": done,
  });
  fireEvent.change(await screen.findByLabelText("Name of tab Asked"), { target: { value: "Requested" } });
  fireEvent.click(screen.getByLabelText("Rename tab Asked"));
  expect(await screen.findByText("Renamed tab to Requested")).toBeTruthy();
  fireEvent.click(screen.getByText("Undo"));
  await waitFor(() => expect(bodies(asked, "POST /api/v1/undo/5")).toHaveLength(1));
  fireEvent.click(screen.getByLabelText("Move tab Asked down"));
  fireEvent.click(screen.getByLabelText("Move tab Lent up"));
  await waitFor(() => expect(bodies(asked, `PATCH ${base}/tabs/b2`)).toEqual([{ first: true }]));
  expect(bodies(asked, `PATCH ${base}/tabs/b1`)).toEqual([{ name: "Requested" }, { after: "b2" }]);
  fireEvent.change(screen.getByLabelText("Name of the new tab"), { target: { value: "Returned" } });
  fireEvent.click(screen.getByText("Add tab"));
  await waitFor(() => expect(bodies(asked, `POST ${base}/tabs`)).toEqual([{ name: "Returned" }]));
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Tour" } });
  fireEvent.click(screen.getByText("Rename", { selector: "section[aria-label=Tracker] span" }));
  await waitFor(() => expect(bodies(asked, `PATCH ${base}`)).toEqual([{ name: "Tour" }]));
});

it("says what needs a thing before one can delete it", async () => {
  const asked = open("admin", {
    [`DELETE ${base}/tabs/b2`]: {
      status: 409,
      body: { title: "Tab in use", detail: "it is needed", conflicts: ["rule Move"], status: 409 },
    },
  });
  fireEvent.click(await screen.findByLabelText("Delete tab Lent"));
  expect(await screen.findByText("it is needed")).toBeTruthy();
  expect(screen.getByText("Tab in use")).toBeTruthy();
  expect(screen.getByText("Delete tab").closest("button")?.disabled).toBe(true);
  expect(asked.filter((a) => a.key.startsWith("DELETE")).map((a) => a.query)).toEqual(["?preview=yes"]);
});

it("deletes after asking, with what goes said before", async () => {
  const asked = open("admin", {
    [`DELETE ${base}/tabs/b2`]: { body: { ...done.body, warnings: ["1 private link ends"] } },
  });
  fireEvent.click(await screen.findByLabelText("Delete tab Lent"));
  expect(await screen.findByText("Delete tab Lent with 2 rows?")).toBeTruthy();
  expect(await screen.findByText("1 private link ends")).toBeTruthy();
  fireEvent.click(screen.getByText("Delete tab"));
  await waitFor(() =>
    expect(asked.filter((a) => a.key.startsWith("DELETE")).map((a) => a.query)).toEqual(["?preview=yes", ""]),
  );
});

it("offers nothing to those who may not", async () => {
  open("editor");
  expect(await screen.findByText("An admin can change these.")).toBeTruthy();
  expect(screen.queryByText("Add tab")).toBeNull();
});

it("changes the time zone, the form of dates and the working days", async () => {
  const own = tracker("admin", { working_days: { week: ["monday", "tuesday"], closed: ["2026-12-25"] } });
  const asked = service({ "GET /api/v1/trackers": { body: [own] }, [`PATCH ${base}`]: done });
  openPage(<SettingsPage />, "/t/:tracker/settings", "/t/t1/settings", own);
  const section = await screen.findByLabelText("Dates, numbers and working days");
  const save = within(section).getByText("Save").closest("button") ?? document.createElement("button");
  expect(save.disabled).toBe(true);
  fireEvent.mouseDown(screen.getByLabelText("Dates are shown as"));
  fireEvent.click(screen.getByTitle("31.03.2026"));
  fireEvent.mouseDown(screen.getByLabelText("Numbers are shown as"));
  fireEvent.click(screen.getByTitle("1.234,5"));
  fireEvent.click(screen.getByText("Tue"));
  fireEvent.click(screen.getByText("Fri"));
  fireEvent.change(screen.getByLabelText("Closed days", { selector: "input" }), { target: { value: "2026-12-24" } });
  fireEvent.click(screen.getByText("Add day"));
  fireEvent.click(screen.getByLabelText("Remove 2026-12-25"));
  fireEvent.click(save);
  await waitFor(() =>
    expect(bodies(asked, `PATCH ${base}`)).toEqual([
      {
        dates: "31.03.2026",
        numbers: "1.234,5",
        working_days: { week: ["monday", "friday"], closed: ["2026-12-24"] },
      },
    ]),
  );
  fireEvent.click(screen.getByText("Mon"));
  fireEvent.click(screen.getByText("Fri"));
  expect(screen.getByText("Choose at least one working day.")).toBeTruthy();
});

it("keeps what one changes while somebody else saves other settings, and says what both have changed", async () => {
  const was = tracker("admin", { working_days: { week: ["monday"], closed: ["2026-12-25"] } });
  const answers: Record<string, Answer> = { "GET /api/v1/trackers": { body: [was] }, [`PATCH ${base}`]: done };
  const asked = service(answers);
  const { client } = openPage(<SettingsPage />, "/t/:tracker/settings", "/t/t1/settings", was);
  const section = await screen.findByLabelText("Dates, numbers and working days");
  fireEvent.click(within(section).getByText("Fri"));
  fireEvent.mouseDown(screen.getByLabelText("Dates are shown as"));
  fireEvent.click(screen.getByTitle("31.03.2026"));
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Tours" } });
  const theirs = {
    name: "Lendings",
    dates: "31/03/2026",
    numbers: "1.234,5",
    working_days: { week: ["monday", "tuesday"], closed: ["2026-12-25", "2026-12-26"] },
  };
  answers["GET /api/v1/trackers"] = { body: [tracker("admin", theirs)] };
  await client.invalidateQueries();
  expect(await screen.findByText(/since you began: Dates are shown as \(now 31\/03\/2026\)/)).toBeTruthy();
  expect(screen.getByText(/since you began: Name \(now Lendings\)/)).toBeTruthy();
  expect(screen.getByDisplayValue("Tours")).toBeTruthy();
  fireEvent.click(within(section).getByText("Save"));
  await waitFor(() =>
    expect(bodies(asked, `PATCH ${base}`)).toEqual([
      {
        dates: "31.03.2026",
        working_days: { week: ["monday", "tuesday", "friday"], closed: ["2026-12-25", "2026-12-26"] },
      },
    ]),
  );
});
