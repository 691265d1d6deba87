import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import FormsPage from "./FormsPage";
import LinkedFormPage from "./LinkedFormPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.sessionStorage.clear();
});

const form = {
  id: "p4",
  name: "Ask",
  says: "Ask away",
  fields: [
    { column: column("What"), required: true, help: "In a few words" },
    { column: column("By", { type: "date" }) },
  ],
};
const button = (text: string) => screen.getByText(text).closest("button") ?? document.body;

it("takes an entry by a private link, keeps it until it has arrived, and says so", async () => {
  const answers: Record<string, Answer> = {
    "POST /api/v1/forms/shown": { body: form },
    "POST /api/v1/forms/entries": {
      status: 422,
      body: { title: "The entry does not fit", detail: "By: no date", field: "By", status: 422 },
    },
  };
  const asked = service(answers);
  openPage(<LinkedFormPage />, "/form", "/form#secret-of-mine", tracker("reader"));
  expect(await screen.findByRole("heading", { name: "Ask" })).toBeTruthy();
  expect(screen.getByText("In a few words")).toBeTruthy();
  fireEvent.click(button("Send"));
  expect(await screen.findByText("What must be filled in")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("What"), { target: { value: "A lamp" } });
  fireEvent.change(screen.getByLabelText("By"), { target: { value: "soon" } });
  fireEvent.click(button("Send"));
  expect(await screen.findByText("By: no date")).toBeTruthy();
  expect(window.sessionStorage.length).toBe(1);
  answers["POST /api/v1/forms/entries"] = { body: { says: "Thanks!" } };
  fireEvent.change(screen.getByLabelText("By"), { target: { value: "4 Dec" } });
  fireEvent.click(button("Send"));
  expect(await screen.findByText("Thanks!")).toBeTruthy();
  expect(window.sessionStorage.length).toBe(0);
  const sent = asked.filter((a) => a.key.endsWith("/entries")).map((a) => a.body as { key: string });
  expect(sent[1]).toMatchObject({ secret: "secret-of-mine", cells: { What: "A lamp", By: "4 Dec" } });
  expect(sent[0]?.key).toBe(sent[1]?.key);
  fireEvent.click(button("Fill in another"));
  expect(await screen.findByLabelText("What")).toBeTruthy();
});

it("says that a link has been closed", async () => {
  service({
    "POST /api/v1/forms/shown": { status: 404, body: { title: "Link closed", detail: "ask for another", status: 404 } },
  });
  openPage(<LinkedFormPage />, "/form", "/form#old", tracker("reader"));
  expect(await screen.findByText("ask for another")).toBeTruthy();
});

const base = "/api/v1/trackers/t1/forms";

it("lists forms, and lets admins make and close private links", async () => {
  const answers: Record<string, Answer> = {
    "GET /api/v1/trackers/t1/entry-forms": { body: [{ id: "p4", name: "Ask", says: "Ask away" }] },
    [`GET ${base}/p4/links`]: { body: [{ id: "x", made: "2026-03-25T09:00:00Z", expires: "2026-04-08T09:00:00Z" }] },
    [`POST ${base}/p4/links`]: { body: { secret: "s", link: "http://kavlo.example.org/form#s" } },
    [`DELETE ${base}/p4/links`]: { body: { closed: 1 } },
    "GET /api/v1/trackers": { body: [tracker("admin")] },
  };
  const asked = service(answers);
  openPage(<FormsPage />, "/t/:tracker/forms/:form?", "/t/t1/forms", tracker("admin"));
  fireEvent.click((await screen.findByText("Make a private link")).closest("button") ?? document.body);
  expect(await screen.findByText("http://kavlo.example.org/form#s")).toBeTruthy();
  expect(asked.find((a) => a.key.startsWith("POST"))?.body).toEqual({ days: 14 });
  fireEvent.click((await screen.findByText("Close 1 link")).closest("button") ?? document.body);
  fireEvent.click((await screen.findByText("Close them")).closest("button") ?? document.body);
  await waitFor(() => expect(asked.some((a) => a.key.startsWith("DELETE"))).toBe(true));
});

it("is filled in by whoever is signed in, once", async () => {
  const asked = service({
    [`GET ${base}/p4/fields`]: { body: form },
    [`POST ${base}/p4/entries`]: { body: { says: "Received." } },
    "GET /api/v1/people": { body: [] },
    "GET /api/v1/trackers": { body: [tracker("reader")] },
  });
  openPage(<FormsPage />, "/t/:tracker/forms/:form?", "/t/t1/forms/p4", tracker("reader"));
  fireEvent.change(await screen.findByLabelText("What"), { target: { value: "A lamp" } });
  fireEvent.click(button("Send"));
  expect(await screen.findByText("Received.")).toBeTruthy();
  expect(asked.find((a) => a.key.startsWith("POST"))?.body).toEqual({ cells: { What: "A lamp" } });
});

it("uploads a file to a field, says where that fails, and sends what was kept", async () => {
  const kept = "dent.png </api/v1/attachments/ABC>";
  const answers: Record<string, Answer> = {
    "POST /api/v1/forms/shown": { body: { ...form, fields: [{ column: column("Photo", { type: "file" }) }] } },
    "POST /api/v1/forms/attachments": {
      status: 413,
      body: { title: "The file is too large", detail: "a file may have at most 20 MB", status: 413 },
    },
    "POST /api/v1/forms/entries": { body: { says: "Thanks!" } },
  };
  const asked = service(answers);
  openPage(<LinkedFormPage />, "/form", "/form#secret-of-mine", tracker("reader"));
  const choose = async (name: string) => {
    await screen.findByText(/^Choose/);
    const input = document.querySelector("input[type=file]") ?? document.body;
    fireEvent.change(input, { target: { files: [new File(["x"], name, { type: "image/png" })] } });
  };
  await choose("film.mov");
  expect((await screen.findByRole("alert")).textContent).toContain(
    "film.mov was not uploaded: a file may have at most",
  );
  answers["POST /api/v1/forms/attachments"] = { body: { value: kept, name: "dent.png", size: 1 } };
  await choose("dent.png");
  expect(await screen.findByText("dent.png")).toBeTruthy();
  expect(screen.queryByRole("alert")).toBeNull();
  fireEvent.click(button("Send"));
  expect(await screen.findByText("Thanks!")).toBeTruthy();
  expect(asked.find((a) => a.key.endsWith("/entries"))?.body).toMatchObject({ cells: { Photo: kept } });
});
