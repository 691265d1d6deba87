import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, screen, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { presence, type Present } from "../api/presence";
import { openPage, service, tracker } from "../testing/page";
import { column, tab } from "../testing/samples";
import { AlsoHere, placeName } from "./AlsoHere";
import { atCells, useOthers, type Where } from "./useOthers";

const me = 7;
const someone = (person: number, name: string, more: Partial<Present> = {}): Present => ({
  person,
  name,
  page: `p${person}`,
  tracker: "t1",
  ...more,
});
const marta = someone(1, "Marta Quell", { tab: "b-Agreed", row: "r1", column: "Stage", label: "Bell" });

beforeEach(() => vi.useFakeTimers({ shouldAdvanceTime: true }));
afterEach(() => {
  cleanup();
  presence.take([]);
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

function open(here: Present[]) {
  const asked = service({ "GET /api/v1/presence": { body: here } });
  const client = new QueryClient();
  client.setQueryData(["session"], { person: { id: me, name: "Ines Valadar" } });
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>{children}</QueryClientProvider>
  );
  const hook = renderHook((where: Where) => useOthers("t1", where), { wrapper, initialProps: { tab: "b1" } as Where });
  const told = () => asked.filter((a) => a.key.startsWith("PUT")).map((a) => a.body);
  const left = () => asked.filter((a) => a.key.startsWith("DELETE /api/v1/trackers/t1/presence/"));
  return { ...hook, told, left };
}

describe("who else is here", () => {
  it("is everybody in the tracker but oneself, as it is now", async () => {
    const { result } = open([marta, someone(me, "Ines Valadar"), someone(3, "Jon Ferro", { tracker: "t2" })]);
    await waitFor(() => expect(result.current).toEqual([marta]));
    act(() => presence.take([someone(3, "Jon Ferro")]));
    expect(result.current.map((p) => p.name)).toEqual(["Jon Ferro"]);
  });

  it("is told where one is: soon, not at every step, and again after a while", async () => {
    const { rerender, told } = open([]);
    await vi.advanceTimersByTimeAsync(10);
    expect(told()).toEqual([{ tab: "b1" }]);
    for (const row of ["r1", "r2", "r3"]) rerender({ tab: "b1", row, column: "Stage" });
    await vi.advanceTimersByTimeAsync(500);
    expect(told()).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(600);
    expect(told().slice(1)).toEqual([{ tab: "b1", row: "r3", column: "Stage" }]);
    await vi.advanceTimersByTimeAsync(26_000);
    expect(told().slice(2)).toEqual([{ tab: "b1", row: "r3", column: "Stage" }]);
  });

  it("is told when one goes", async () => {
    const { unmount, left } = open([]);
    await vi.advanceTimersByTimeAsync(10);
    unmount();
    await waitFor(() => expect(left()).toHaveLength(1));
  });

  it("is found by row and column", () => {
    const both = [
      marta,
      someone(2, "Jon Ferro", { row: "r1", column: "Stage" }),
      someone(3, "Ana Prieto", { row: "r1" }),
    ];
    const cells = atCells([...both, { ...marta, page: "another" }]);
    expect(cells.get("r1")?.get("Stage")).toEqual(["Marta Quell", "Jon Ferro"]);
    expect([...cells.keys()]).toEqual(["r1"]);
  });
});

describe("the line that names them", () => {
  const shown = tracker("editor", { tabs: [tab("Agreed", [column("Object")])] });
  const name = (others: Present[]) =>
    openPage(<AlsoHere tracker={shown} tab="b-Agreed" others={others} />, "/t/:tracker", "/t/t1", shown);

  it("leads to where they are, and names each once", () => {
    name([marta, { ...marta, page: "another" }]);
    const link = screen.getByRole("link", { name: "Marta Quell" });
    expect(link.getAttribute("href")).toBe("/t/t1/b-Agreed?row=r1");
    expect(link.title).toBe("Agreed › Bell › Stage");
    expect(screen.getByRole("status").textContent).toBe("Also here: Marta Quell");
  });

  it("counts several, and names them on a click, those of the tab first", async () => {
    name([someone(4, "Ana Prieto"), someone(5, "Oto Lund"), someone(6, "Vera Holm"), marta]);
    expect(screen.getByRole("status").textContent).toBe("4 others here");
    act(() => screen.getByText("4 others here").click());
    const list = await screen.findByRole("list");
    expect([...list.children].map((li) => li.textContent?.trim())).toEqual([
      "Marta Quell Agreed › Bell › Stage",
      "Ana Prieto",
      "Oto Lund",
      "Vera Holm",
    ]);
  });

  it("is not there where nobody is", () => {
    name([]);
    expect(screen.queryByRole("status")).toBeNull();
    expect(placeName(shown, someone(1, "x", { tab: "gone" }))).toBe("");
  });
});
