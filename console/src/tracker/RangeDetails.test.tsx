import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { openPage, service, tracker } from "../testing/page";
import { column, row, tab } from "../testing/samples";
import { RowStore } from "./rowStore";
import type { Edits } from "./useEdits";
import { WhyPanel } from "./WhyPanel";

afterEach(() => {
  cleanup();
  sessionStorage.clear();
  vi.unstubAllGlobals();
});

const columns = [column("Object"), column("Stage"), column("Worth", { read_only: true })];
const agreed = tab("Agreed", columns);
const shown = tracker("editor", { tabs: [agreed] });

const at = "2026-11-27T08:00:00Z";
const why = {
  cells: 4,
  untouched: 1,
  sets: [
    {
      seq: 9,
      at,
      who: "Marta Quell",
      by: 'the rule "Sort" (step 1)',
      run: "run9",
      says: ["set Stage"],
      changed: 2,
      stand: 2,
    },
    { seq: 7, at, who: "Ines Valadar", by: "Ines Valadar", says: ["set Object of Bell"], changed: 2, stand: 1 },
    { seq: 3, at, who: "Ines Valadar", by: "Ines Valadar", says: ["put a note on Stage"], changed: 1, stand: 0 },
  ],
};

function openPanel(notes: Record<string, string>[], names = ["Object", "Stage"]) {
  const store = new RowStore();
  const rows = notes.map((n, i) => row(`r${i + 1}`, { Object: `Bell ${i + 1}`, Stage: "Agreed" }, { notes: n }));
  store.load(agreed.id, rows);
  const asked = service({ "GET /api/v1/trackers/t1/tabs/b-Agreed/cells/why": { body: why } });
  const sent: unknown[] = [];
  const edits = { many: (all: unknown) => (sent.push(all), Promise.resolve(true)) } as unknown as Edits;
  const panel = (
    <WhyPanel
      store={store}
      tracker={shown}
      tab={agreed}
      row="r1"
      column={columns[0] ?? column("Object")}
      chosen={{ rows: rows.map((r) => r.id), columns: names }}
      columns={columns}
      edits={edits}
      onClose={() => undefined}
    />
  );
  openPage(panel, "/t/:tracker", "/t/t1", shown);
  return { asked, sent };
}

describe("the details of several cells", () => {
  it("say what made them as they are, and what has changed them", async () => {
    const { asked } = openPanel([{}, {}]);
    expect(screen.getByRole("heading", { level: 2 }).textContent).toBe("4 cells in 2 rows");
    const made = await screen.findByRole("region", { name: "Why they are as they are" });
    expect([...made.querySelectorAll("li > div")].map((e) => e.textContent)).toEqual([
      '2 cells: the rule "Sort" (step 1)',
      "1 cell: Ines Valadar",
    ]);
    expect(made.textContent).toContain("1 cell: no change is on record");
    expect(made.querySelector("a")?.getAttribute("href")).toBe("/t/t1/runs/run9");
    const history = screen.getByRole("region", { name: "History" });
    expect(history.querySelectorAll("li")).toHaveLength(3);
    expect(history.textContent).toContain("put a note on Stage");
    const query = new URLSearchParams(asked.find((a) => a.key.endsWith("cells/why"))?.query);
    expect(query.getAll("rows")).toEqual(["r1", "r2"]);
    expect(query.getAll("columns")).toEqual(["Object", "Stage"]);
  });

  it("put one note on all that may have one", async () => {
    const { sent } = openPanel([{ Stage: "ask" }, {}], ["Object", "Stage", "Worth"]);
    const box = screen.getByLabelText("Note on all of them");
    expect(box.getAttribute("placeholder")).toBe("Different notes");
    fireEvent.change(box, { target: { value: " call them " } });
    fireEvent.click(screen.getByText("Save note"));
    const note = { Object: "call them", Stage: "call them" };
    expect(sent).toEqual([
      [
        { row: "r1", notes: note },
        { row: "r2", notes: note },
      ],
    ]);
    await waitFor(() => expect(sessionStorage).toHaveLength(0));
  });

  it("show the note that all have, and take it off them", () => {
    const same = { Object: "old", Stage: "old" };
    const { sent } = openPanel([same, same]);
    const box = screen.getByLabelText<HTMLTextAreaElement>("Note on all of them");
    expect(box.value).toBe("old");
    expect(screen.queryByText("Delete notes")).toBeNull();
    fireEvent.change(box, { target: { value: "" } });
    fireEvent.click(screen.getByText("Delete notes"));
    expect(sent[0]).toEqual(["r1", "r2"].map((row) => ({ row, notes: { Object: "", Stage: "" } })));
  });

  it("keep a note that is half written", () => {
    openPanel([{}, {}]);
    fireEvent.change(screen.getByLabelText("Note on all of them"), { target: { value: "half" } });
    cleanup();
    openPanel([{}, {}]);
    expect(screen.getByLabelText<HTMLTextAreaElement>("Note on all of them").value).toBe("half");
    cleanup();
    openPanel([{}, {}, {}]);
    expect(screen.getByLabelText<HTMLTextAreaElement>("Note on all of them").value).toBe("");
  });
});
