import { act, cleanup, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker, type Answer } from "../testing/page";
import { column, row, tab } from "../testing/samples";
import { RowStore } from "./rowStore";
import type { Edits } from "./useEdits";
import { WhyPanel } from "./WhyPanel";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const object = column("Object");
const agreed = tab("Agreed", [object]);
const at = "2026-11-27T08:00:00Z";

const asked = "GET /api/v1/trackers/t1/tabs/b-Agreed/rows/r1";

function openPanel() {
  const answers: Record<string, Answer> = {
    [`${asked}/why`]: { body: { chain: [{ at, who: "Demo", says: "added Bell" }] } },
    [`${asked}/history`]: { body: [{ seq: 1, at, who: "Demo", says: "history of Bell" }] },
  };
  service(answers);
  const store = new RowStore();
  store.load(agreed.id, [row("r1", { Object: "Bell" })]);
  const shown = tracker("reader", { tabs: [agreed] });
  const panel = (
    <WhyPanel
      store={store}
      tracker={shown}
      tab={agreed}
      row="r1"
      column={object}
      chosen={{ rows: ["r1"], columns: ["Object"] }}
      columns={[object]}
      edits={{} as Edits}
      onClose={() => undefined}
    />
  );
  openPage(panel, "/t/:tracker", "/t/t1", shown);
  return { store, answers };
}

it("goes on showing what is known of a row until what has changed is known", async () => {
  const { store, answers } = openPanel();
  expect(await screen.findByText("history of Bell")).toBeTruthy();
  let answered = () => {};
  const late = new Promise<void>((done) => (answered = done));
  const before = fetch;
  vi.stubGlobal("fetch", async (request: Request) => (await late, before(request)));
  answers[`${asked}/history`] = { body: [{ seq: 2, at, who: "Marta Quell", says: "set Object" }] };
  act(() => store.put(row("r1", { Object: "Ship's bell" }, { version: 2 })));
  expect(screen.getByText("Why Object is Ship's bell")).toBeTruthy();
  expect(screen.getByText("history of Bell")).toBeTruthy();
  expect(screen.getAllByText("added Bell")).toHaveLength(2);
  answered();
  expect(await screen.findByText("set Object")).toBeTruthy();
  await waitFor(() => expect(screen.queryByText("history of Bell")).toBeNull());
});
