import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { noStream, openPage, service, tracker, type Answer } from "../testing/page";
import { storeOf } from "../tracker/stores";
import { cameFrom } from "./cameFrom";
import { SignInPage } from "./SignInPage";

const session = "POST /api/v1/session";
const ada: Answer = { body: { person: { id: 7, name: "Ada" } } };
const used: Answer = { status: 401, body: { title: "Not signed in", detail: "The link was used before", status: 401 } };

beforeEach(() => window.history.replaceState(null, "", "/sign-in"));
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  sessionStorage.clear();
});

// open shows the page and gives what is asked, and where one is.
function open(answer: Answer) {
  const asked = service({ [session]: answer });
  const { router } = openPage(<SignInPage />, "*", "/sign-in", tracker("reader"));
  return { secrets: () => asked.map((a) => (a.body as { secret: string }).secret), at: () => router.state.location };
}

it("signs in by a link that is followed, once, and leads to Today", async () => {
  window.history.replaceState(null, "", "/sign-in#one-time");
  const { secrets, at } = open(ada);
  await waitFor(() => expect(at().pathname).toBe("/"));
  expect(secrets()).toEqual(["one-time"]);
  expect(window.location.hash).toBe("");
});

it("shows nobody the rows of whoever was here before", async () => {
  noStream();
  const before = storeOf("t1");
  window.history.replaceState(null, "", "/sign-in#next");
  const { at } = open(ada);
  await waitFor(() => expect(at().pathname).toBe("/"));
  expect(storeOf("t1")).not.toBe(before);
});

it("follows a link that is opened while the page stands there", async () => {
  const { secrets } = open(ada);
  window.location.hash = "#second";
  act(() => void window.dispatchEvent(new HashChangeEvent("hashchange")));
  await waitFor(() => expect(secrets()).toEqual(["second"]));
});

it("takes a pasted link or token, and keeps it where it does not serve", async () => {
  const { secrets, at } = open(used);
  const field = screen.getByLabelText("Sign-in link or token");
  const button = screen.getByText("Sign in").closest("button");
  expect(button?.disabled).toBe(true);
  fireEvent.change(field, { target: { value: " https://kavlo.example.org/sign-in#pasted " } });
  fireEvent.click(button ?? field);
  expect(await screen.findByText("The link was used before")).toBeTruthy();
  expect(secrets()).toEqual(["pasted"]);
  expect(at().pathname).toBe("/sign-in");
  expect(field).toHaveProperty("value", " https://kavlo.example.org/sign-in#pasted ");
});

it.each([
  [7, "/t/t1/b2"],
  [8, "/"],
])("leads person 7 back to where person %i was only if it is the same: %s", async (person, path) => {
  cameFrom({ person, path: "/t/t1/b2" });
  window.history.replaceState(null, "", "/sign-in#again");
  const { at } = open(ada);
  await waitFor(() => expect(at().pathname).toBe(path));
});
