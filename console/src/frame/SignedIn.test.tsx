import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { noStream, openPage, service, tracker, type Answer } from "../testing/page";
import { storeOf } from "../tracker/stores";
import { SignedIn } from "./SignedIn";

beforeEach(() => {
  noStream();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function signOut(answer: Answer) {
  service({ "DELETE /api/v1/session": answer });
  const { router, client } = openPage(<SignedIn name="Ines Valadar" />, "*", "/mail", tracker("reader"));
  const rows = storeOf("t1");
  fireEvent.click(screen.getByText("Sign out"));
  return { at: () => router.state.location.pathname, client, kept: () => storeOf("t1") === rows };
}

it("leaves nothing of whoever signs out", async () => {
  const { at, client, kept } = signOut({ body: {} });
  await waitFor(() => expect(at()).toBe("/sign-in"));
  expect(client.getQueryData(["session"])).toBeUndefined();
  expect(kept()).toBe(false);
});

it("says why nobody is signed out, and stays", async () => {
  const { at, client } = signOut({
    status: 500,
    body: { title: "Not done", detail: "The disk is full.", status: 500 },
  });
  expect(await screen.findByText("The disk is full.")).toBeTruthy();
  expect(at()).toBe("/mail");
  expect(client.getQueryData(["session"])).toBeTruthy();
});
