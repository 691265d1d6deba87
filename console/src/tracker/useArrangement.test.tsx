import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { service, tracker } from "../testing/page";
import { column, tab } from "../testing/samples";
import { useArrangement } from "./useArrangement";

afterEach(() => {
  cleanup();
  localStorage.clear();
  vi.unstubAllGlobals();
});

const agreed = tab("Agreed", [column("Object"), column("Stage"), column("Value", { type: "number" })]);
const shown = tracker("editor", { tabs: [agreed] });
const kept = `kavlo arranged ${agreed.id}`;
const late = { id: "v1", kind: "view", name: "Late first", body: { tab: "Agreed", order: ["Value down"] } };

function open(address: string) {
  service({ "GET /api/v1/trackers/t1/views": { body: [late, { ...late, id: "v2", body: { tab: "Other" } }] } });
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter initialEntries={[address]}>{children}</MemoryRouter>
    </QueryClientProvider>
  );
  const { result } = renderHook(() => ({ ...useArrangement(shown, agreed), address: useLocation().search }), {
    wrapper,
  });
  return result;
}

describe("the arrangement of a tab", () => {
  it("stands in the address, and is kept for oneself", () => {
    const result = open("/t/t1/b1");
    expect(result.current.arrangement.words).toBe("");
    act(() => result.current.arrange({ words: "bell" }));
    act(() => result.current.arrange({ order: [{ column: "Value", down: true }] }));
    expect(result.current.arrangement).toMatchObject({ words: "bell", order: [{ column: "Value", down: true }] });
    expect(new URLSearchParams(result.current.address).get("words") ?? result.current.address).toContain("bell");
    expect(localStorage.getItem(kept)).toContain("bell");
  });

  it("loses nothing where two changes come at once, before the address has followed", () => {
    const result = open("/t/t1/b1");
    act(() => {
      result.current.arrange({ words: "bell" });
      result.current.arrange({ widths: { Stage: 200 } });
    });
    expect(result.current.arrangement).toMatchObject({ words: "bell", widths: { Stage: 200 } });
  });

  it("is as one left it where the address says nothing, and not where it asks for a row", async () => {
    const first = open("/t/t1/b1");
    act(() => first.current.arrange({ words: "bell" }));
    cleanup();
    const again = open("/t/t1/b1");
    await waitFor(() => expect(again.current.arrangement.words).toBe("bell"));
    cleanup();
    expect(open("/t/t1/b1?row=r7").current.arrangement.words).toBe("");
  });

  it("is forgotten once nothing of it is left", () => {
    const result = open("/t/t1/b1");
    act(() => result.current.arrange({ words: "bell" }));
    act(() => result.current.arrange({ words: "" }));
    expect(localStorage.getItem(kept)).toBeNull();
  });

  it("begins from a named view of the tab, and tells when it was changed", async () => {
    const result = open("/t/t1/b1");
    await waitFor(() => expect(result.current.views.map((v) => v.id)).toEqual(["v1"]));
    act(() => result.current.begin("Late first"));
    expect(result.current.view?.id).toBe("v1");
    expect(result.current.changed).toBe(false);
    act(() => result.current.arrange({ words: "bell" }));
    expect(result.current.view?.id).toBe("v1");
    expect(result.current.changed).toBe(true);
  });
});
