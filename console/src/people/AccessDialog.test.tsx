import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { AccessDialog } from "./AccessDialog";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const of = "/api/v1/people/marta.quell%40example.org";
const person = { id: 3, name: "Marta Quell", address: "marta.quell@example.org", access: "editor" as const };
const tokens = [
  { id: "1", kind: "token", name: "night script", made: "2026-11-01T08:00:00Z", used: "2026-11-20T08:00:00Z" },
  { id: "2", kind: "session", name: "browser", made: "2026-11-02T08:00:00Z", expires: "2026-12-02T08:00:00Z" },
];

function open(answers: Record<string, Answer> = {}) {
  const asked = service({ [`GET ${of}/access`]: { body: tokens }, ...answers });
  openPage(<AccessDialog person={person} onClose={() => undefined} />, "/people", "/people", tracker("admin"));
  return { asked, keys: () => asked.map((a) => a.key) };
}

describe("what lets a person in", () => {
  it("is listed, with when it was used and when it expires", async () => {
    open();
    await screen.findByText("night script");
    const rows = [...document.querySelectorAll("tbody tr.ant-table-row")].map((r) =>
      [...r.querySelectorAll("td")].slice(0, 2).map((d) => d.textContent),
    );
    expect(rows).toEqual([
      ["Access token", "night script"],
      ["Signed in", "browser"],
    ]);
    expect(screen.getAllByText("never")).toHaveLength(2); // one is never used, one never expires
  });

  it("is made under a name, for so many days, and shown once", async () => {
    const { asked } = open({ [`POST ${of}/token`]: { body: { secret: "made-secret" } } });
    const button = screen.getByRole<HTMLButtonElement>("button", { name: "New token" });
    expect(button.disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("What the token is for"), { target: { value: "month end" } });
    fireEvent.change(screen.getByLabelText("Days that it lasts"), { target: { value: "30" } });
    fireEvent.click(button);
    expect(await screen.findByText("made-secret")).toBeTruthy();
    const query = new URLSearchParams(asked.find((a) => a.key === `POST ${of}/token`)?.query);
    expect(Object.fromEntries(query)).toEqual({ name: "month end", days: "30" });
  });

  it("may be a calendar address", async () => {
    open({ [`POST ${of}/feed`]: { body: { link: "https://kavlo.example.org/calendar/x.ics" } } });
    fireEvent.click(screen.getByText("New calendar address"));
    expect(await screen.findByText("https://kavlo.example.org/calendar/x.ics")).toBeTruthy();
  });

  it("is revoked after a word, and the list is asked for again", async () => {
    const { keys } = open({ [`DELETE ${of}/access/1`]: { body: {} } });
    fireEvent.click(await screen.findByLabelText("Revoke access token night script"));
    expect(keys()).not.toContain(`DELETE ${of}/access/1`);
    expect(await screen.findByText("Revoke this access token? It stops working at once.")).toBeTruthy();
    fireEvent.click(screen.getAllByRole("button", { name: "Revoke" }).at(-1) as Element);
    await waitFor(() => expect(keys().filter((k) => k === `GET ${of}/access`).length).toBeGreaterThan(1));
    expect(keys()).toContain(`DELETE ${of}/access/1`);
  });

  it("says why it could not be made", async () => {
    open({ [`POST ${of}/feed`]: { status: 403, body: { title: "Not allowed", detail: "ask an admin", status: 403 } } });
    fireEvent.click(screen.getByText("New calendar address"));
    expect(await screen.findByText(/ask an admin/)).toBeTruthy();
  });
});
