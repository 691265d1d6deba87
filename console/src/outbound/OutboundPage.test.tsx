import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import OutboundPage from "./OutboundPage";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const base = "/api/v1/trackers/t1/outbound";
const file = (path: string, more = {}) => ({
  path,
  rule: "Planner",
  at: "2026-03-25T09:00:00Z",
  rows: 3,
  size: 10,
  ...more,
});

const open = (role: "reader" | "admin") =>
  openPage(<OutboundPage />, "/t/:tracker/outbound", "/t/t1/outbound", tracker(role));

it("lists files, those that are gone, and what each was before", async () => {
  service({
    [`GET ${base}`]: { body: [file("a b.xlsx"), file("old.csv", { gone: true, keep: 1 })] },
    [`GET ${base}/versions`]: { body: [{ version: 2, at: "2026-03-25T08:00:00Z", run: "w1" }] },
  });
  open("reader");
  const link = await screen.findByText("a b.xlsx");
  expect(link.getAttribute("href")).toBe(`${base}/file?path=a%20b.xlsx`);
  expect(screen.getByText("old.csv, deleted")).toBeTruthy();
  expect(screen.getByText("1 day")).toBeTruthy();
  expect(screen.queryByText("Upload a workbook")).toBeNull();
  fireEvent.click(screen.getByLabelText("Earlier versions of a b.xlsx"));
  const version = await screen.findByText("Version 2");
  expect(version.getAttribute("href")).toBe(`${base}/file?path=a%20b.xlsx&version=2`);
});

it("uploads a workbook under the name given, and keeps what was filled in when it is refused", async () => {
  const answers: Record<string, Answer> = {
    [`GET ${base}`]: { body: [] },
    [`POST ${base}/file`]: { status: 422, body: { title: "Refused", detail: "no.xlsx is no workbook", status: 422 } },
  };
  const asked = service(answers);
  open("admin");
  fireEvent.click(await screen.findByText("Upload a workbook"));
  const button = screen.getByText("Upload", { selector: "button span" }).closest("button");
  expect(button?.disabled).toBe(true);
  const input = document.querySelector<HTMLInputElement>("input[type=file]");
  fireEvent.change(input ?? document.body, { target: { files: [new File(["x"], "month.xlsx")] } });
  const name = await screen.findByDisplayValue("month.xlsx");
  fireEvent.change(name, { target: { value: "forms/month.xlsx" } });
  fireEvent.click(screen.getByLabelText("Template: rules make new workbooks from it"));
  fireEvent.click(button ?? document.body);
  expect(await screen.findByText("no.xlsx is no workbook")).toBeTruthy();
  expect(screen.getByDisplayValue("forms/month.xlsx")).toBeTruthy();
  answers[`POST ${base}/file`] = { body: { path: "templates/forms/month.xlsx" } };
  fireEvent.click(button ?? document.body);
  expect(await screen.findByText('In a rule\'s write step, it is "from: templates/forms/month.xlsx".')).toBeTruthy();
  expect(asked.findLast((a) => a.key.startsWith("POST"))?.query).toBe("?path=forms%2Fmonth.xlsx&template=yes");
  await waitFor(() => expect(asked.filter((a) => a.key === `GET ${base}`).length).toBe(2));
});

it("compares two files that are marked, the older first", async () => {
  const asked = service({
    [`GET ${base}`]: { body: [file("new.csv"), file("old.csv")] },
    [`GET ${base}/compare`]: {
      body: {
        key: "No",
        added: ["7"],
        removed: [],
        same: 2,
        changed: [{ row: "3", column: "Fee", before: "", after: "5" }],
      },
    },
  });
  open("reader");
  for (const name of ["new.csv", "old.csv"]) fireEvent.click(await screen.findByLabelText(`Mark ${name}`));
  expect(
    await screen.findByText("1 row added, 0 removed, 1 cell changed, 2 the same; rows matched by No."),
  ).toBeTruthy();
  expect(screen.getByText("Added: 7")).toBeTruthy();
  expect(asked.find((a) => a.key.endsWith("/compare"))?.query).toBe("?before=old.csv&after=new.csv");
});
