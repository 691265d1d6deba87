import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { Tab, Tracker } from "../api/client";
import { noStream, openPage, service, tracker, type Answer } from "../testing/page";
import { Frame } from "./Frame";
import Palette from "./Palette";
import { automation, inUse, titleOf, workspacePlaces } from "./places";

beforeEach(() => {
  noStream();
  // what the palette's list asks of a browser
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe = () => undefined;
      unobserve = () => undefined;
      disconnect = () => undefined;
    },
  );
  Element.prototype.scrollIntoView = () => undefined;
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.localStorage.clear();
});

const tab = (id: string, name: string, more: Partial<Tab> = {}): Tab => ({
  id,
  name,
  label: "",
  columns: [],
  rows: 3,
  overdue: 0,
  ...more,
});
const loans = tracker("admin", { tabs: [tab("b1", "Requested", { overdue: 2 }), tab("b2", "Agreed")] });
const past: Tracker = { ...tracker("admin"), id: "t2", name: "Past tours", tabs: [tab("b9", "Any year")] };

it("names each page, and takes the tracker that one is in or was in last", () => {
  const all = [loans, past];
  expect(titleOf("/", all)).toBe("Today · Kavlo");
  expect(titleOf("/t/t1/b2", all)).toBe("Agreed · Loans · Kavlo");
  expect(titleOf("/t/t2/rules", all)).toBe("Rules · Past tours · Kavlo");
  expect(titleOf("/t/t9/b7", all)).toBe("Kavlo");
  expect(inUse("/mail", [past, loans])?.id).toBe("t1"); // the larger
  expect(inUse("/t/t2/rules", all)?.id).toBe("t2");
  expect(inUse("/mail", all)?.id).toBe("t2");
  expect(inUse("/mail", [])).toBeUndefined();
  expect(workspacePlaces("reader", false).map((p) => p.name)).toEqual(["Today", "Mail"]);
});

it("shows the tabs and the automation of one tracker, and leads to another", async () => {
  service({ "GET /api/v1/trackers": { body: [loans, past] } });
  const { router, client } = openPage(<Frame />, "*", "/t/t1/b1", loans);
  client.setQueryData(["trackers"], [loans, past]);
  const side = await screen.findByRole("navigation", { name: "Tracker" });
  expect(await within(side).findByText("2 overdue")).toBeTruthy();
  for (const place of automation) expect(within(side).getByText(place.name)).toBeTruthy();
  expect(within(side).queryByText("Any year")).toBeNull();
  const above = screen.getByRole("navigation", { name: "Workspace" });
  expect(within(above).getByText("People").getAttribute("href")).toBe("/people");
  fireEvent.mouseDown(within(side).getByLabelText("Tracker"));
  fireEvent.click(await screen.findByText("Past tours"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t2/b9"));
  expect(await within(side).findByText("Any year")).toBeTruthy();
});

const places = workspacePlaces("admin", true);
const answers = (): Record<string, Answer> => ({
  ...Object.fromEntries(
    ["rules", "reminders", "rounds", "syncs", "dossiers", "tallies"].map((k) => [
      `GET /api/v1/trackers/t1/${k}`,
      { body: k === "rules" ? [{ id: "p7", kind: "rule", name: "Move loans", says: "", body: {} }] : [] },
    ]),
  ),
  "GET /api/v1/find": {
    body: [{ id: "r5", label: "Brass bell", tab: "Agreed", tab_id: "b2", tracker: "Loans", tracker_id: "t1" }],
  },
});

function palette(given: Record<string, Answer>) {
  const asked = service(given);
  const close = vi.fn();
  const { router } = openPage(
    <Palette trackers={[loans, past]} current={loans} places={places} onClose={close} />,
    "*",
    "/",
    loans,
  );
  const type = (text: string) => fireEvent.change(screen.getByPlaceholderText(/^Go to/), { target: { value: text } });
  return { asked, close, router, type };
}

it("leads to tabs, pages, rules and rows by a few letters, by keyboard", async () => {
  const { close, router, type } = palette(answers());
  type("any y");
  fireEvent.keyDown(screen.getByPlaceholderText(/^Go to/), { key: "Enter" });
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t2/b9"));
  expect(close).toHaveBeenCalledTimes(1);
  type("move lo");
  fireEvent.click(await screen.findByText("Move loans"));
  expect(router.state.location.pathname).toBe("/t/t1/rules/p7");
  type("bell");
  fireEvent.click(await screen.findByText("Brass bell"));
  expect(router.state.location.pathname + router.state.location.search).toBe("/t/t1/b2?row=r5");
});

it("opens a page by its title, asks where two are called so, and says where none is", async () => {
  const given = answers();
  const ref = (row: string) => ({
    title: "Annex",
    row,
    pattern: "Venue file",
    pattern_id: "p1",
    tracker: "t1",
    address: "",
    in: "Venues",
  });
  given["GET /api/v1/pages"] = {
    status: 404,
    body: { title: "Page not found", detail: "did you mean Annex?", status: 404 },
  };
  const { router, type } = palette(given);
  type("Anex");
  fireEvent.click(await screen.findByText("Open the page of the title “Anex”"));
  expect(await screen.findByText("did you mean Annex?")).toBeTruthy();
  given["GET /api/v1/pages"] = { body: [ref("r2"), ref("r3")] };
  type("Annex");
  fireEvent.click(await screen.findByText("Open the page of the title “Annex”"));
  expect(await screen.findByText("2 pages are called Annex")).toBeTruthy();
  fireEvent.click(screen.getByText("r3"));
  expect(router.state.location.pathname).toBe("/t/t1/pages/p1/r3");
});
