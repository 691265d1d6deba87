import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Tab } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { dueOf, reminderBeginnings, reminderLacks, roundBeginnings, roundLacks } from "./body";
import ReminderPage from "./ReminderPage";
import RemindersPage from "./RemindersPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.sessionStorage.clear();
});

const tab = (name: string, ...columns: Column[]): Tab => ({ id: name, name, label: "", columns, rows: 0, overdue: 0 });
const loans = tracker("admin", {
  tabs: [
    tab("Asked", column("Object"), column("Sent", "date"), column("Due", "date"), column("Clerk", "person")),
    tab("Log", column("What")),
  ],
});
const base = "/api/v1/trackers/t1";
const body = {
  name: "Late",
  in: "Asked",
  where: "Due before today",
  show: ["Object", { "Days late": "days between Due and today" }],
  to: "{Clerk}",
  raise: { after: "20 workdays", to: "ines@example.org" },
  repeat: "every 3 days",
};
const reminder = { id: "p1", kind: "reminder", name: "Late", says: "Reminds the Clerk.", body };
const round = {
  id: "p2",
  kind: "round",
  name: "Morning",
  says: "Daily.",
  body: { name: "Morning", clock: "daily at 8:30", reminders: "all" },
};

function open(at: string, page: React.ReactElement, path: string, more: Record<string, Answer> = {}) {
  const asked = service({
    "GET /api/v1/trackers": { body: [loans] },
    "GET /api/v1/people": { body: [{ id: 1, name: "Ines Valadar", address: "ines@example.org", access: "admin" }] },
    [`GET ${base}/reminders`]: { body: [reminder] },
    [`GET ${base}/rounds`]: { body: [round] },
    [`GET ${base}/rules`]: { body: [] },
    [`GET ${base}/tallies`]: { body: [] },
    [`GET ${base}/reminders/p1`]: { body: reminder },
    [`GET ${base}/rounds/p2`]: { body: round },
    [`POST ${base}/try/reminder`]: {
      body: {
        says: "Reminds.",
        matched: 1,
        rows: [{ id: "r1", tab: "Asked", tab_id: "Asked", label: "Bell", to: ["ines@example.org"] }],
        passed_over: [],
      },
    },
    [`POST ${base}/try/round`]: { body: { says: "Daily.", rows: [], passed_over: [] } },
    ...more,
  });
  const { router } = openPage(page, path, at, loans);
  return { asked, router };
}
const one = "/t/:tracker/reminders/:kind/:definition";
const last = (asked: { key: string; body: unknown }[], key: string) =>
  (asked.filter((a) => a.key === key).at(-1)?.body as { body: Record<string, unknown> } | undefined)?.body;

it("begins reminders from dates and people, and names what is missing", () => {
  expect(dueOf(loans.tabs[0] ?? tab(""))?.name).toBe("Due");
  const all = reminderBeginnings(loans);
  expect(all.map((b) => b.id)).toEqual(["overdue Asked", "empty"]);
  expect(all[0]?.body).toMatchObject({ to: "{Clerk}", where: "Due before today", due: "Due" });
  expect(reminderLacks(all[0]?.body ?? {})).toEqual([]);
  expect(reminderLacks({})).toEqual([
    "a name",
    "the tabs whose rows it is about",
    "a condition",
    "what is shown of the rows",
    "who is told",
  ]);
  for (const b of roundBeginnings) expect(roundLacks(b.body)).toEqual([]);
  expect(roundLacks({ reminders: [] })).toEqual(["a name", "its schedule", "the reminders that it sends"]);
});

it("shows a reminder as controls, keeps what has none, and saves what one changes", async () => {
  const { asked, router } = open("/t/t1/reminders/reminder/p1", <ReminderPage />, one, {
    [`PUT ${base}/reminders/p1`]: { body: { changes: [], followed: [], seq: 3 } },
  });
  expect(await screen.findByDisplayValue("Late")).toBeTruthy();
  expect(await screen.findByText("Asked, ines@example.org")).toBeTruthy();
  expect(screen.getByText("Days late")).toBeTruthy();
  expect(screen.getByText("every 3 days")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Escalate after"), { target: { value: "10 workdays" } });
  await waitFor(() =>
    expect(last(asked, `POST ${base}/try/reminder`)?.raise).toEqual({ after: "10 workdays", to: "ines@example.org" }),
  );
  fireEvent.click(screen.getByText("Save"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/reminders"));
  const put = asked.find((a) => a.key === `PUT ${base}/reminders/p1`)?.body;
  expect(put).toMatchObject({ show: body.show, repeat: "every 3 days" });
});

it("sets a round's hour and words", async () => {
  const { asked } = open("/t/t1/reminders/round/p2", <ReminderPage />, one);
  fireEvent.change(await screen.findByLabelText("At what time"), { target: { value: "07:15" } });
  fireEvent.change(screen.getByLabelText("subject"), { target: { value: "{count} wait" } });
  await waitFor(() =>
    expect(last(asked, `POST ${base}/try/round`)).toMatchObject({ clock: "daily at 07:15", subject: "{count} wait" }),
  );
});

it("sends a round after it has said to whom, and a test to oneself", async () => {
  const run = {
    letters: [{ to: "joren@example.org", subject: "s", text: "", html: "", count: 2 }],
    queued: 1,
    already: 0,
  };
  const { asked, router } = open("/t/t1/reminders", <RemindersPage />, "/t/:tracker/reminders", {
    [`POST ${base}/rounds/p2/run`]: { body: run },
    [`POST ${base}/rounds/p2/try`]: {
      body: { to: "ines@example.org", subject: "For a look", text: "", html: "", count: 1 },
    },
  });
  fireEvent.click(await screen.findByText("Send test to me"));
  expect(await screen.findByText("To ines@example.org: For a look")).toBeTruthy();
  fireEvent.click(screen.getByText("Send now"));
  expect(await screen.findByText("joren@example.org: 2 rows")).toBeTruthy();
  fireEvent.click(screen.getByText("Send 1 email"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/mail"));
  expect(asked.filter((a) => a.key.endsWith("/run")).map((a) => a.query)).toEqual(["?preview=yes", ""]);
});

it("shows beside a round when it runs next, and the email that each person would get", async () => {
  const emails = [
    {
      to: "ines@example.org",
      name: "Ines Valadar",
      subject: "2 rows wait",
      text: "Bell",
      html: "<b>Bell</b>",
      count: 2,
    },
    { to: "joren@example.org", subject: "1 row waits", text: "Horn", html: "<b>Horn</b>", count: 1 },
  ];
  open("/t/t1/reminders/round/p2", <ReminderPage />, one, {
    [`POST ${base}/try/round`]: {
      body: { says: "Daily.", rows: [], passed_over: [], next: ["2030-01-02T08:30:00Z", "2030-01-03T08:30:00Z"] },
    },
    [`POST ${base}/try/round/emails`]: { body: { emails, more: 1 } },
  });
  expect(await screen.findByText("Would send 3 emails now")).toBeTruthy();
  expect(screen.getByLabelText("Runs next").children).toHaveLength(2);
  expect(screen.getByText("2 rows wait")).toBeTruthy();
  fireEvent.mouseDown(screen.getByLabelText("Email for"));
  fireEvent.click(screen.getByTitle("joren@example.org, 1 row"));
  expect(await screen.findByText("1 row waits")).toBeTruthy();
  expect((screen.getByTitle("The mail") as HTMLIFrameElement).srcdoc).toContain("Horn");
});
