import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { column, row, tab } from "../testing/samples";
import { AddRow } from "./AddRow";
import type { Edits } from "./useEdits";

afterEach(() => {
  cleanup();
  sessionStorage.clear();
  vi.unstubAllGlobals();
});

const agreed = tab("Agreed", [
  column("Object"),
  column("Stage", { required: true }),
  column("Worth", { clause: "1 + 1", read_only: true }),
]);
const shown = tracker("editor", { tabs: [agreed] });
const add = "POST /api/v1/trackers/t1/tabs/b-Agreed/rows";
const added = row("r9", { Object: "Bell", Stage: "Agreed" });
const set: Answer = { body: { changes: [{ kind: "add", row: "r9" }], rows: [added], followed: [], counts: {} } };

function open(answer: Answer, begin?: Record<string, unknown>) {
  const asked = service({ [add]: answer });
  const done = { closed: 0, accepted: 0, added: [] as string[] };
  const edits = { accept: () => done.accepted++ } as unknown as Edits;
  const form = (
    <AddRow
      tracker={shown}
      tab={agreed}
      people={[]}
      edits={edits}
      begin={begin}
      at={{ after: "r3" }}
      onAdded={(id) => done.added.push(id)}
      onClose={() => done.closed++}
    />
  );
  openPage(form, "/t/:tracker", "/t/t1", shown);
  return { asked, done };
}

const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
const valueOf = (label: string) => screen.getByLabelText<HTMLInputElement>(label).value;

describe("a new row", () => {
  it("asks for what is required first, and not for what is worked out", () => {
    open(set);
    expect([...document.querySelectorAll("form label")].map((l) => l.textContent)).toEqual(["Stage", "Object"]);
  });

  it("goes where it was asked for, and is gone to", async () => {
    const { asked, done } = open(set);
    type("Object", "Bell");
    type("Stage", "Agreed");
    fireEvent.click(screen.getByText("Add"));
    await waitFor(() => expect(done.added).toEqual(["r9"]));
    expect(asked.find((a) => a.key === add)?.body).toEqual({
      rows: [{ Object: "Bell", Stage: "Agreed" }],
      after: "r3",
    });
    expect(done).toMatchObject({ closed: 1, accepted: 1 });
    expect(sessionStorage).toHaveLength(0);
  });

  it("says what is missing, and sends nothing", async () => {
    const { asked, done } = open(set);
    type("Object", "Bell");
    fireEvent.click(screen.getByText("Add"));
    expect(await screen.findByText("Stage must not be blank")).toBeTruthy();
    expect(asked.filter((a) => a.key === add)).toEqual([]);
    expect(done.closed).toBe(0);
  });

  it("says why it was refused, and keeps what was typed", async () => {
    const { done } = open({ status: 422, body: { title: "Not added", detail: "Bell is there already", status: 422 } });
    type("Object", "Bell");
    type("Stage", "Agreed");
    fireEvent.click(screen.getByText("Add"));
    expect(await screen.findByText(/Bell is there already/)).toBeTruthy();
    expect(done.closed).toBe(0);
    expect(valueOf("Object")).toBe("Bell");
  });

  it("is there again when its form was closed half way, until it is begun anew", () => {
    open(set, { Stage: "Agreed" });
    expect(valueOf("Stage")).toBe("Agreed");
    type("Object", "Half a bell");
    cleanup();
    open(set, { Stage: "Agreed" });
    expect(valueOf("Object")).toBe("Half a bell");
    fireEvent.click(screen.getByText("Start again"));
    expect([valueOf("Object"), valueOf("Stage")]).toEqual(["", "Agreed"]);
    cleanup();
    open(set);
    expect(screen.queryByText("Start again")).toBeNull();
    expect(valueOf("Object")).toBe("");
  });
});
