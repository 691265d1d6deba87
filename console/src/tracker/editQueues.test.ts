import { waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { noStream, service, type Asked } from "../testing/page";
import "./editQueues"; // so that the first test has it at once, as the others do

const patch = (tracker: string) => `PATCH /api/v1/trackers/${tracker}/rows`;
const set = { body: { changes: [], followed: [], counts: {}, rows: [] } };

// Locks as a browser has them: those of pages that are open are taken.
const taken = new Set<string>();
const locks = {
  request: (name: string, how: unknown, work?: (lock: unknown) => unknown) => {
    const run = (work ?? how) as (lock: unknown) => unknown;
    if (work) return Promise.resolve(run(taken.has(name) ? null : { name }));
    taken.add(name);
    return Promise.resolve(run({ name }));
  },
};

// Each page has modules of its own.
const open = async () => {
  vi.resetModules();
  return import("./editQueues");
};

const edit = (value: string) => [{ row: "r1", label: "Bell", column: "Stage", value, before: "Requested", version: 1 }];
const sentTo = (asked: Asked[], tracker: string) =>
  asked.filter((a) => a.key === patch(tracker)).map((a) => (a.body as { edits: { cells: object }[] }).edits[0]?.cells);
const waiting = () => Object.keys(localStorage).filter((k) => k.startsWith("kavlo unsaved"));

beforeEach(() => {
  vi.stubGlobal("navigator", Object.create(navigator, { locks: { value: locks } }));
  noStream();
});
afterEach(() => {
  localStorage.clear();
  sessionStorage.clear();
  taken.clear();
  vi.unstubAllGlobals();
});

// leftBy lets a person edit while nobody answers, and closes their page.
const leftBy = async (person: number, tracker: string, value: string) => {
  service({
    [patch(tracker)]: { status: 503, body: { type: "urn:kavlo:away", title: "Away", status: 503, detail: "" } },
  });
  const page = await open();
  page.queueOf(person, tracker).add(edit(value));
  page.leave();
  sessionStorage.clear();
  taken.clear();
};

describe("the edits that wait", () => {
  it("are of one tracker, and the same queue for whoever asks again", async () => {
    service({});
    const { queueOf } = await open();
    expect(queueOf(1, "t1")).toBe(queueOf(1, "t1"));
    expect(queueOf(1, "t1")).not.toBe(queueOf(1, "t2"));
  });

  it("are sent, and then wait no more", async () => {
    const asked = service({ [patch("t1")]: set });
    const { queueOf } = await open();
    queueOf(1, "t1").add(edit("Agreed"));
    await waitFor(() => expect(sentTo(asked, "t1")).toEqual([{ Stage: "Agreed" }]));
    await waitFor(() => expect(waiting()).toEqual([]));
  });

  it("are sent after a page that was closed, by the next of the same person", async () => {
    await leftBy(1, "t1", "Agreed");
    expect(waiting()).toHaveLength(1);
    const asked = service({ [patch("t1")]: set });
    const { resume } = await open();
    resume(1);
    await waitFor(() => expect(sentTo(asked, "t1")).toEqual([{ Stage: "Agreed" }]));
    await waitFor(() => expect(waiting()).toEqual([]));
  });

  it("are neither seen nor sent by somebody else", async () => {
    await leftBy(1, "t1", "Agreed");
    const asked = service({ [patch("t1")]: set });
    const { queueOf, resume } = await open();
    resume(2);
    expect(queueOf(2, "t1").list()).toEqual([]);
    await new Promise((r) => setTimeout(r, 30));
    expect(sentTo(asked, "t1")).toEqual([]);
    expect(waiting()).toHaveLength(1);
  });

  it("are taken up from the editor of a page that crashed, and not of one that is open", async () => {
    service({});
    const crashed = await open();
    crashed.queueOf(1, "t1").typing(edit("Agreed")[0]);
    const page = waiting()[0]?.split(" ").at(-2) ?? "";
    sessionStorage.clear(); // the next page is another one
    const asked = service({ [patch("t1")]: set });
    taken.add(`kavlo page ${page}`);
    (await open()).resume(1);
    await new Promise((r) => setTimeout(r, 30));
    expect(sentTo(asked, "t1")).toEqual([]);
    taken.clear();
    sessionStorage.clear();
    (await open()).resume(1);
    await waitFor(() => expect(sentTo(asked, "t1")).toEqual([{ Stage: "Agreed" }]));
    await waitFor(() => expect(waiting()).toEqual([]));
  });

  it("are left to a page that is still open", async () => {
    await leftBy(1, "t1", "Agreed");
    const page = waiting()[0]?.split(" ").at(-1) ?? "";
    taken.add(`kavlo page ${page}`);
    const asked = service({ [patch("t1")]: set });
    const { queueOf } = await open();
    expect(queueOf(1, "t1").list()).toEqual([]);
    await new Promise((r) => setTimeout(r, 30));
    expect(sentTo(asked, "t1")).toEqual([]);
  });
});
