import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import MailPage from "./MailPage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const at = "2026-11-27T08:30:00Z";
const arrived = {
  id: "a1",
  to: ["ines@example.org"],
  subject: "3 loans are overdue",
  date: at,
  text: "Enamelled crane",
  html: "<p>Enamelled crane</p>",
  raw: "Subject: 3 loans are overdue",
};
const kept = (id: string, state: string, more = {}) => ({
  id,
  to: `${id}@example.org`,
  subject: `To ${id}`,
  state,
  tries: 1,
  made: at,
  text: id,
  html: `<p>${id}</p>`,
  ...more,
});

function open(role: "editor" | "reader", more: Record<string, Answer> = {}) {
  const asked = service({
    "GET /api/v1/arrived": { body: [arrived] },
    "GET /api/v1/outbox": {
      body: [kept("joren", "given up", { problem: "550 there is no such mailbox" }), kept("marta", "waiting")],
    },
    ...more,
  });
  openPage(<MailPage />, "/mail", "/mail", tracker(role));
  return asked;
}

it("shows an email as it arrived, as text and as it was sent", async () => {
  open("editor");
  const mail = within(await screen.findByLabelText("3 loans are overdue"));
  expect(mail.getByTitle("The mail").getAttribute("sandbox")).toBe("");
  fireEvent.click(mail.getByText("Plain text"));
  expect(mail.getByText("Enamelled crane")).toBeTruthy();
  fireEvent.click(mail.getByText("Source"));
  expect(mail.getByText("Subject: 3 loans are overdue")).toBeTruthy();
});

it("says why an email did not go, and sends it once more", async () => {
  const asked = open("editor", { "POST /api/v1/outbox/joren/resend": { body: kept("joren", "waiting") } });
  await screen.findByLabelText("3 loans are overdue");
  fireEvent.click(screen.getByText("Outbox"));
  expect(await screen.findByText("550 there is no such mailbox")).toBeTruthy();
  fireEvent.click(screen.getByText("Resend"));
  expect(await screen.findByText("On its way once more")).toBeTruthy();
  expect(asked.some((a) => a.key === "POST /api/v1/outbox/joren/resend")).toBe(true);
  fireEvent.click(screen.getByText("To marta"));
  expect(screen.queryByText("Resend")).toBeNull(); // it goes anyway
});

it("offers a reader nothing to send, and says when there is nothing", async () => {
  open("reader");
  await screen.findByLabelText("3 loans are overdue");
  fireEvent.click(screen.getByText("Outbox"));
  await screen.findByText("550 there is no such mailbox");
  expect(screen.queryByText("Resend")).toBeNull();
  cleanup();
  open("editor", {
    "GET /api/v1/arrived": { body: [] },
    "GET /api/v1/outbox": { status: 503, body: { title: "Away", detail: "the disk takes nothing" } },
  });
  expect(await screen.findByText(/Nothing has arrived yet/)).toBeTruthy();
  fireEvent.click(screen.getByText("Outbox"));
  await waitFor(() => expect(screen.getByText("the disk takes nothing")).toBeTruthy());
});
