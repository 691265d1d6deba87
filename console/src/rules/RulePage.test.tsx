import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Column, Tab } from "../api/client";
import { openPage, service, tracker, type Answer } from "../testing/page";
import RulePage from "./RulePage";
import RulesPage from "./RulesPage";
import { column } from "../testing/samples";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  window.sessionStorage.clear();
});

const tab = (name: string, ...columns: Column[]): Tab => ({ id: name, name, label: "", columns, rows: 0, overdue: 0 });
const stage = column("Stage", "choice", { options: [{ name: "Requested" }, { name: "Agreed" }] });
const loans = tracker("admin", {
  tabs: [tab("Requested", column("Object"), stage, column("Value", "number")), tab("Agreed", column("Object"), stage)],
});
const body = {
  name: "Flag",
  wake: { edit: ["Value"] },
  in: "Requested",
  where: "Value >= 5",
  steps: [{ set: { Object: "Dear" } }],
};
const rule = { id: "p1", kind: "rule", name: "Flag", version: "v1", says: "When Value changes.", body };
const base = "/api/v1/trackers/t1";
const set = { changes: [], followed: [], passed_over: [], counts: {}, at: "2026-03-25T09:00:00Z", who: "Ines" };
const tried = {
  says: "When Value changes in Requested: set Object to Dear.",
  matched: 25,
  considered: 40,
  skipped: 1,
  starts: ["Move"],
  loops: ["Flag -> Move -> Flag"],
  rows: [{ id: "r1", tab: "Requested", tab_id: "Requested", label: "Bell" }],
  passed_over: [{ row: "r2", label: "Horn", tab: "Requested", why: "Value is odd" }],
};

function open(at: string, more: Record<string, Answer> = {}) {
  const answers: Record<string, Answer> = {
    [`GET ${base}/rules`]: { body: [rule] },
    [`GET ${base}/rules/p1`]: { body: rule },
    [`POST ${base}/try/rule`]: { body: tried },
    "POST /api/v1/clauses/check": { body: { type: "yes or no" } },
    "GET /api/v1/people": { body: [{ name: "Ines Valadar", address: "ines@example.org" }] },
    "GET /api/v1/trackers": { body: [loans] },
    ...more,
  };
  const asked = service(answers);
  const page = at.includes("/rules/") ? <RulePage /> : <RulesPage />;
  const { client, router } = openPage(
    page,
    at.includes("/rules/") ? "/t/:tracker/rules/:rule" : "/t/:tracker/rules",
    at,
    loans,
  );
  return { asked, answers, client, router };
}
const button = (text: string) =>
  screen.getByText<HTMLElement>(text).closest("button") ?? document.createElement("button");
const trials = (asked: { key: string; body: unknown }[]) =>
  asked.filter((a) => a.key.endsWith("/try/rule")).map((a) => (a.body as { body: Record<string, unknown> }).body);

it("shows a rule as controls, and beside it what it matches, skips, starts and loops with", async () => {
  open("/t/t1/rules/p1");
  expect(await screen.findByDisplayValue("Flag")).toBeTruthy();
  expect(await screen.findByText("Matches 25 rows now")).toBeTruthy();
  expect(screen.getByText("Bell").getAttribute("href")).toBe("/t/t1/Requested?row=r1");
  expect(screen.getByText("and 24 more rows")).toBeTruthy();
  expect(screen.getByText("Horn: Value is odd")).toBeTruthy();
  expect(screen.getByText("May start: Move.")).toBeTruthy();
  expect(screen.getByRole("alert").textContent).toContain("Flag -> Move -> Flag");
  expect(button("Save").disabled).toBe(true);
});

const theirs = { ...rule, version: "v2", says: "Theirs now.", body: { ...body, where: "Value >= 6" } };
const overtaken = { status: 412, body: { title: "Changed by someone else", detail: "someone else", status: 412 } };

async function setValue(to: string) {
  fireEvent.change(await screen.findByLabelText("Value of Value"), { target: { value: to } });
  fireEvent.blur(screen.getByLabelText("Value of Value"));
}

it("changes a value, tries it, saves it past nobody, and offers to undo", async () => {
  const { asked, answers, router } = open("/t/t1/rules/p1", { [`PUT ${base}/rules/p1`]: overtaken });
  await setValue("9");
  await waitFor(() => expect(trials(asked).at(-1)?.where).toBe("Value >= 9"));
  expect(window.sessionStorage.length).toBe(1);
  answers[`GET ${base}/rules/p1`] = { body: theirs };
  fireEvent.click(button("Save"));
  expect(await screen.findByText("Someone else changed this rule")).toBeTruthy();
  expect(screen.getByText("Theirs now.")).toBeTruthy();
  answers[`PUT ${base}/rules/p1`] = { body: { ...set, seq: 7 } };
  fireEvent.click(button("Save mine"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/rules"));
  const puts = asked.filter((a) => a.key === `PUT ${base}/rules/p1`);
  expect(puts.map((a) => a.match)).toEqual(['"v1"', '"v2"']);
  expect(puts.at(-1)?.body).toMatchObject({ where: "Value >= 9" });
  expect(window.sessionStorage.length).toBe(0);
});

it("follows what somebody else saves until one changes something, then says so", async () => {
  const { client, asked, answers } = open("/t/t1/rules/p1", { [`PUT ${base}/rules/p1`]: overtaken });
  expect(await screen.findByDisplayValue("5")).toBeTruthy();
  answers[`GET ${base}/rules/p1`] = { body: theirs };
  await client.invalidateQueries();
  expect(await screen.findByDisplayValue("6")).toBeTruthy();
  await setValue("9");
  answers[`GET ${base}/rules/p1`] = { body: { ...theirs, version: "v3", body: { ...body, where: "Value >= 7" } } };
  await client.invalidateQueries();
  expect(await screen.findByText("Someone else has changed this rule since you began.")).toBeTruthy();
  expect(screen.getByDisplayValue("9")).toBeTruthy();
  fireEvent.click(button("Save"));
  expect(await screen.findByText("Someone else changed this rule")).toBeTruthy();
  expect(asked.find((a) => a.key.startsWith("PUT"))?.match).toBe('"v2"');
  fireEvent.click(button("Use theirs"));
  expect(await screen.findByDisplayValue("7")).toBeTruthy();
  expect(screen.queryByText("Someone else has changed this rule since you began.")).toBeNull();
});

it("knows after a reload that somebody else has saved since one began", async () => {
  open("/t/t1/rules/p1");
  await setValue("9");
  cleanup();
  open("/t/t1/rules/p1", { [`GET ${base}/rules/p1`]: { body: theirs } });
  expect(await screen.findByDisplayValue("9")).toBeTruthy();
  fireEvent.click(button("Compare"));
  expect(await screen.findByText("Theirs now.")).toBeTruthy();
});

it("keeps what one made of a rule that somebody deletes, and saves it anew", async () => {
  const gone = { status: 404, body: { title: "Not found", detail: "no rule p1", status: 404 } };
  const { client, answers } = open("/t/t1/rules/p1");
  await setValue("9");
  answers[`GET ${base}/rules/p1`] = gone;
  await client.invalidateQueries();
  const says = "Someone deleted this rule. Save adds it again as it stands here.";
  expect(await screen.findByText(says)).toBeTruthy();
  cleanup(); // a reload finds it too
  const { asked, router } = open("/t/t1/rules/p1", {
    [`GET ${base}/rules/p1`]: gone,
    [`POST ${base}/rules`]: { body: { ...set, seq: 8 } },
  });
  expect(await screen.findByText(says)).toBeTruthy();
  fireEvent.click(button("Save"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/rules"));
  expect(asked.find((a) => a.key === `POST ${base}/rules`)?.body).toMatchObject({ where: "Value >= 9" });
});

it("keeps a half-built rule, says what is missing, and saves nothing before", async () => {
  const { asked } = open("/t/t1/rules/new?from=empty", { [`POST ${base}/rules`]: { body: { ...set, seq: 8 } } });
  expect(await screen.findByText("Missing: a name, a step.")).toBeTruthy();
  expect(button("Save").disabled).toBe(true);
  expect(trials(asked)).toEqual([]);
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Tidy" } });
  fireEvent.click(button("Add step"));
  fireEvent.click(await screen.findByLabelText("Delete step 1"));
  fireEvent.click(button("Add step"));
  const step = within(screen.getByRole("group", { name: "Step 1" }));
  fireEvent.click(step.getByText("Set another cell"));
  fireEvent.change(step.getByLabelText("What Object is set to"), { target: { value: "Moved" } });
  await waitFor(() =>
    expect(trials(asked).at(-1)?.steps).toEqual([{ move: { to: "Agreed", set: { Object: "Moved" } } }]),
  );
  cleanup();
  open("/t/t1/rules/new?from=empty");
  expect(await screen.findByDisplayValue("Tidy")).toBeTruthy();
});

it("takes the text form, tells what is no text, and keeps what cannot be chosen", async () => {
  const { asked } = open("/t/t1/rules/p1");
  fireEvent.click(await screen.findByText("As text"));
  const text = await screen.findByLabelText("The rule as text");
  fireEvent.change(text, { target: { value: "name: [" } });
  await waitFor(() => expect(document.querySelector(".clause-mistake")?.textContent).toContain("Flow sequence"));
  fireEvent.change(text, { target: { value: "name: Flag\nwhere: count in Agreed > 5\nsteps: [ { remove: yes } ]\n" } });
  await waitFor(() =>
    expect(trials(asked).at(-1)).toEqual({ name: "Flag", where: "count in Agreed > 5", steps: [{ remove: "yes" }] }),
  );
  fireEvent.click(screen.getByText("Sentence"));
  await waitFor(() => expect(document.querySelector(".cm-content")?.textContent).toBe("count in Agreed > 5"));
  expect(screen.getByText("Undo brings it back.")).toBeTruthy();
});

it("tells why a rule is refused, and deletes one", async () => {
  const problem = { status: 422, body: { title: "Request refused", detail: "needed elsewhere", status: 422 } };
  const { answers, router } = open("/t/t1/rules/p1", { [`DELETE ${base}/rules/p1`]: problem });
  fireEvent.click(await screen.findByText("Delete rule"));
  expect(await screen.findByText("needed elsewhere")).toBeTruthy();
  answers[`DELETE ${base}/rules/p1`] = { body: { ...set, seq: 9 } };
  fireEvent.click(button("Delete rule"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/rules"));
});

it("lists rules, previews one, applies it, pauses and copies", async () => {
  const change = {
    kind: "set",
    row: "r1",
    label: "Bell",
    tab: "Requested",
    column: "Object",
    before: "Bell",
    after: "Dear",
  };
  const { asked, router } = open("/t/t1/rules", {
    [`POST ${base}/rules/p1/run`]: { body: { ...set, changes: [change], run: "run1" } },
    [`POST ${base}/rules/p1/pause`]: { body: set },
  });
  fireEvent.click(await screen.findByLabelText("Preview Flag"));
  expect(await screen.findByText("What Flag would change now")).toBeTruthy();
  fireEvent.click(button("Pause"));
  await waitFor(() => expect(asked.some((a) => a.key.endsWith("/pause"))).toBe(true));
  fireEvent.click(screen.getByText("Apply 1 change"));
  await waitFor(() => expect(router.state.location.pathname).toBe("/t/t1/runs/run1"));
  expect(asked.filter((a) => a.key.endsWith("/run")).map((a) => a.query)).toEqual(["?preview=yes", ""]);
});

it("offers beginnings where there is no rule yet", async () => {
  const { router } = open("/t/t1/rules", { [`GET ${base}/rules`]: { body: [] } });
  fireEvent.click(await screen.findByText("Move rows by Stage"));
  await waitFor(() => expect(router.state.location.search).toBe("?from=route"));
});

it("tells when rules ran and run next, and puts them in order", async () => {
  const other = { ...rule, id: "p2", name: "Move" };
  const { asked } = open("/t/t1/rules", {
    [`GET ${base}/rules`]: { body: [rule, other] },
    [`GET ${base}/schedule`]: {
      body: [
        { id: "p1", kind: "rule", name: "Flag", last: { run: "R1", at: "2026-03-24T06:00:00Z", outcome: "failed" } },
        { id: "p2", kind: "rule", name: "Move", phrase: "daily at 2:00", next: "2030-03-25T02:00:00Z" },
      ],
    },
    [`POST ${base}/order`]: { body: set },
  });
  expect((await screen.findByText("failed")).getAttribute("href")).toBe("/t/t1/runs/R1");
  expect(screen.getByText(/^Next: .*02:00/)).toBeTruthy();
  fireEvent.keyDown(screen.getByLabelText("Move Flag"), { key: "ArrowDown", altKey: true });
  await waitFor(() =>
    expect(asked.find((a) => a.key === `POST ${base}/order`)?.body).toEqual({ kind: "rule", first: ["p2", "p1"] }),
  );
});

it("tells who changed a rule, once that is asked for", async () => {
  const { asked } = open("/t/t1/rules/p1", {
    [`GET ${base}/rules/p1/history`]: {
      body: [
        { seq: 7, at: "2026-03-25T09:00:00Z", who: "Ines", says: ["where: Value >= 4 → Value >= 5"] },
        { seq: 2, at: "2026-03-20T09:00:00Z", who: "Joren", says: ["added"] },
      ],
    },
  });
  const summary = await screen.findByText("History of changes");
  expect(asked.some((a) => a.key.endsWith("/history"))).toBe(false);
  fireEvent.click(summary);
  expect(await screen.findByText("where: Value >= 4 → Value >= 5")).toBeTruthy();
  expect(screen.getByText(/Joren, change set 2/)).toBeTruthy();
});
