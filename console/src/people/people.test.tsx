import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import PeoplePage from "./PeoplePage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const ines = { id: 1, name: "Ines Valadar", address: "ines@example.org", access: "admin" };
const orla = { id: 2, name: "Orla Teal", address: "orla@example.org", access: "editor" };

function open(role: "admin" | "editor", more: Record<string, Answer> = {}) {
  const asked = service({ "GET /api/v1/people": { body: [ines, orla] }, ...more });
  const { client } = openPage(<PeoplePage />, "/people", "/people", tracker(role));
  client.setQueryData(["session"], { person: { ...ines, access: role } });
  return asked;
}

it("adds a person, gives a sign-in link once, and removes a person after asking", async () => {
  const asked = open("admin", {
    "PUT /api/v1/people": { body: orla },
    "POST /api/v1/people/orla%40example.org/link": {
      body: { secret: "s", link: "http://kavlo.example.org/sign-in#s" },
    },
    "DELETE /api/v1/people/orla%40example.org": { body: {} },
  });
  fireEvent.change(await screen.findByPlaceholderText("Name"), { target: { value: "Teo Marsh" } });
  fireEvent.change(screen.getByPlaceholderText("Email address"), { target: { value: "teo@example.org" } });
  fireEvent.click(screen.getByText("Add person"));
  await waitFor(() =>
    expect(asked.find((a) => a.key === "PUT /api/v1/people")?.body).toEqual({
      name: "Teo Marsh",
      address: "teo@example.org",
      access: "editor",
    }),
  );
  await waitFor(() => expect(screen.getByPlaceholderText<HTMLInputElement>("Name").value).toBe(""));
  fireEvent.change(screen.getByPlaceholderText("Email address"), { target: { value: "ORLA@example.org" } });
  expect(screen.getByText("Orla Teal has this address. Change their role in the list.")).toBeTruthy();
  expect(screen.getByText("Add person").closest("button")?.disabled).toBe(true);
  fireEvent.click(screen.getByLabelText("Sign-in link for Orla Teal"));
  expect(await screen.findByText("http://kavlo.example.org/sign-in#s")).toBeTruthy();
  fireEvent.click(screen.getByLabelText("Remove Orla Teal"));
  fireEvent.click((await screen.findAllByText("Remove")).at(-1)?.closest("button") ?? document.body);
  await waitFor(() => expect(asked.some((a) => a.key.startsWith("DELETE"))).toBe(true));
  expect(screen.queryByLabelText("Remove Ines Valadar")).toBeNull();
});

it("renames a person, and gives another role under the same name", async () => {
  const asked = open("admin", { "PUT /api/v1/people": { body: orla } });
  fireEvent.click(await screen.findByLabelText("Rename Orla Teal"));
  const field = screen.getByLabelText("Name of Orla Teal");
  fireEvent.change(field, { target: { value: "Orla Marsh" } });
  fireEvent.click(screen.getByText("Save"));
  const puts = () => asked.filter((a) => a.key === "PUT /api/v1/people").map((a) => a.body);
  await waitFor(() => expect(puts()).toEqual([{ name: "Orla Marsh", address: "orla@example.org" }]));
  await waitFor(() => expect(screen.queryByText("Save")).toBeNull());
  fireEvent.click(screen.getByLabelText("Rename Orla Teal"));
  fireEvent.keyDown(screen.getByLabelText("Name of Orla Teal"), { key: "Escape" });
  fireEvent.mouseDown(screen.getByLabelText("Role of Orla Teal"));
  fireEvent.click(screen.getByTitle("Reader: sees rows"));
  await waitFor(() => expect(puts().at(-1)).toEqual({ address: "orla@example.org", access: "reader" }));
});

it("shows people to those who may not change them, and tells what is refused", async () => {
  open("editor");
  expect(await screen.findByText("orla@example.org")).toBeTruthy();
  expect(screen.queryByText("Add person")).toBeNull();
  cleanup();
  open("admin", {
    "PUT /api/v1/people": { status: 422, body: { title: "Invalid address", detail: "no @ in it", status: 422 } },
  });
  fireEvent.change(await screen.findByPlaceholderText("Email address"), { target: { value: "x@y" } });
  fireEvent.click(screen.getByText("Add person"));
  expect(await screen.findByText("no @ in it")).toBeTruthy();
  expect(screen.getByPlaceholderText<HTMLInputElement>("Email address").value).toBe("x@y"); // to be put right
});

it("makes tokens and calendar addresses, lists what lets a person in, and revokes it", async () => {
  const of = "/api/v1/people/orla%40example.org";
  const asked = open("admin", {
    [`GET ${of}/access`]: {
      body: [{ id: "k1", kind: "token", name: "Report", made: "2026-03-01T08:00:00Z" }],
    },
    [`POST ${of}/token`]: { body: { secret: "kv-secret" } },
    [`POST ${of}/feed`]: { body: { link: "http://kavlo.example.org/feeds/f" } },
    [`DELETE ${of}/access/k1`]: { body: {} },
  });
  fireEvent.click(await screen.findByLabelText("Tokens and calendar of Orla Teal"));
  expect(await screen.findByText("Report")).toBeTruthy();
  fireEvent.click(screen.getByText("New calendar address"));
  expect(await screen.findByText("http://kavlo.example.org/feeds/f")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("What the token is for"), { target: { value: "Nightly" } });
  fireEvent.click(screen.getByText("New token"));
  expect(await screen.findByText("kv-secret")).toBeTruthy();
  expect(asked.find((a) => a.key === `POST ${of}/token`)?.query).toBe("?name=Nightly&days=90");
  fireEvent.click(screen.getByLabelText("Revoke access token Report"));
  fireEvent.click((await screen.findAllByText("Revoke")).at(-1)?.closest("button") ?? document.body);
  await waitFor(() => expect(asked.some((a) => a.key.startsWith("DELETE"))).toBe(true));
});
