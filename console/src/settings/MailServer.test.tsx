import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { MailServer } from "./MailServer";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function open(found: object, more: Record<string, Answer> = {}) {
  const asked = service({ "GET /api/v1/outbox/server": { body: found }, ...more });
  openPage(<MailServer />, "/workspace", "/workspace", tracker("admin"));
  return asked;
}

const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });

it("sets a mail server where there is none", async () => {
  const asked = open(
    { address: "" },
    { "PUT /api/v1/outbox/server": { body: { address: "mail.example.org:587", user: "loans" } } },
  );
  expect(await screen.findByText("No mail server is set. Emails wait in the outbox.")).toBeTruthy();
  expect(screen.getByText("Save mail server").closest("button")?.disabled).toBe(true);
  type("Mail server", " mail.example.org:587");
  type("Account", "loans");
  expect(screen.getByText("Save mail server").closest("button")?.disabled).toBe(true);
  type("Password", "harbour");
  type("Sender", "Loans <loans@example.org>");
  fireEvent.click(screen.getByText("Save mail server"));
  await waitFor(() =>
    expect(asked.find((a) => a.key.startsWith("PUT"))?.body).toEqual({
      address: "mail.example.org:587",
      encryption: "when offered",
      user: "loans",
      password: "harbour",
      from: "Loans <loans@example.org>",
    }),
  );
  await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Password").value).toBe(""));
});

it("asks for the password again when the server is another, and forgets one after asking", async () => {
  const asked = open(
    { address: "mail.example.org:587", user: "loans" },
    { "DELETE /api/v1/outbox/server": { body: { address: "" } } },
  );
  expect(await screen.findByPlaceholderText("as saved")).toBeTruthy();
  type("Mail server", "other.example.org:25");
  expect(screen.getByText(/Type the password again/)).toBeTruthy();
  fireEvent.click(screen.getByText("Forget mail server"));
  fireEvent.click(await screen.findByText("Forget mail server", { selector: ".ant-popconfirm *" }));
  await waitFor(() => expect(asked.some((a) => a.key.startsWith("DELETE"))).toBe(true));
});

it("says where one is set that cannot be changed here", async () => {
  open({ address: "mail.example.org:25", at_start: true });
  expect(await screen.findByText("mail.example.org:25")).toBeTruthy();
  expect(screen.queryByText("Save mail server")).toBeNull();
});

it("sends a test email, or says why it does not go", async () => {
  open({ address: "" }, { "POST /api/v1/outbox/test": { body: { to: "ines@example.org" } } });
  fireEvent.click(await screen.findByText("Send me a test email"));
  expect(await screen.findByText("Sent a test email to ines@example.org.")).toBeTruthy();
  cleanup();
  const refused = { title: "Request refused", detail: "no mail server", status: 422 };
  open({ address: "" }, { "POST /api/v1/outbox/test": { status: 422, body: refused } });
  fireEvent.click(await screen.findByText("Send me a test email"));
  expect(await screen.findByText(/no mail server/)).toBeTruthy();
});
