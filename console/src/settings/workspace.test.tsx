import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { movedOne } from "./TrackersOrder";
import WorkspacePage from "./WorkspacePage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function open(role: "admin" | "editor", more: Record<string, Answer> = {}) {
  const asked = service({
    "GET /api/v1/outbox/server": { body: { address: "mail.example.org:25", at_start: true } },
    "GET /api/v1/access/reach": { body: ["10.0.0.7"] },
    "GET /api/v1/access/secrets": { body: ["REGISTER"] },
    ...more,
  });
  openPage(<WorkspacePage />, "/workspace", "/workspace", tracker(role));
  return asked;
}

it("allows and forbids addresses", async () => {
  const asked = open("admin", {
    "PUT /api/v1/access/reach": { body: [] },
    "DELETE /api/v1/access/reach": { status: 409, body: { title: "In use", detail: "a list needs it", status: 409 } },
  });
  fireEvent.change(await screen.findByLabelText("Address to allow"), { target: { value: " lists.example.org " } });
  fireEvent.click(screen.getByText("Allow address"));
  await waitFor(() => expect(asked.find((a) => a.key.startsWith("PUT"))?.query).toBe("?address=lists.example.org"));
  fireEvent.click(await screen.findByLabelText("Remove address 10.0.0.7"));
  expect(await screen.findByText("a list needs it")).toBeTruthy();
});

it("keeps a secret that is not shown again, and deletes one after asking", async () => {
  const asked = open("admin", {
    "PUT /api/v1/access/secrets/TASKS": { body: [] },
    "DELETE /api/v1/access/secrets/REGISTER": { body: [] },
  });
  fireEvent.change(await screen.findByLabelText("Name of the secret"), { target: { value: "MY TASKS" } });
  expect(await screen.findByText("Letters, digits and underscores only.")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Name of the secret"), { target: { value: "TASKS" } });
  fireEvent.change(screen.getByLabelText("Secret"), { target: { value: "s3cret" } });
  fireEvent.click(screen.getByText("Save secret"));
  await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Secret").value).toBe(""));
  expect(asked.find((a) => a.key.startsWith("PUT"))?.body).toEqual({ value: "s3cret" });
  fireEvent.click(screen.getByLabelText("Delete secret REGISTER"));
  fireEvent.click(await screen.findByText("Delete secret"));
  await waitFor(() => expect(asked.some((a) => a.key.startsWith("DELETE"))).toBe(true));
});

it("puts trackers in another order", async () => {
  const named = (id: string) => ({ ...tracker("admin"), id, name: `Tracker ${id}` });
  const [first, second, third] = [named("a"), named("b"), named("c")];
  const all = [first, second, third];
  for (const [from, to, moved] of [
    [2, 0, third],
    [0, 2, first],
    [1, 2, second],
    [1, 1, undefined],
  ] as const) {
    const put = [...all];
    put.splice(to, 0, ...put.splice(from, 1));
    // of two neighbours that change places either may be said to have moved
    const found = movedOne(all, put);
    expect(Math.abs(from - to) === 1 ? [moved, all[to]] : [moved]).toContain(found);
  }
  const asked = service({
    "GET /api/v1/trackers": { body: all },
    "GET /api/v1/outbox/server": { body: { at_start: true } },
    "GET /api/v1/access/reach": { body: [] },
    "GET /api/v1/access/secrets": { body: [] },
    "PATCH /api/v1/trackers/b": { body: { seq: 7, changes: [], followed: [], passed_over: [], counts: {} } },
  });
  openPage(<WorkspacePage />, "/workspace", "/workspace", first);
  fireEvent.keyDown(await screen.findByLabelText("Move Tracker b"), { key: "ArrowUp", altKey: true });
  await waitFor(() => expect(asked.find((a) => a.key.startsWith("PATCH"))?.body).toEqual({ first: true }));
  expect(await screen.findByText("Moved tracker Tracker b")).toBeTruthy();
});

it("is for admins", () => {
  open("editor");
  expect(screen.getByText("An admin can change these.")).toBeTruthy();
  expect(screen.queryByText("Secrets")).toBeNull();
});
