import { act, renderHook } from "@testing-library/react";
import { expect, it } from "vitest";
import { useFields } from "./useFields";

type Saved = { name: string; zone?: string };
const start = (saved: Saved) => renderHook(({ saved }) => useFields(saved), { initialProps: { saved } });

it("follows what is saved in the fields that one leaves alone", () => {
  const hook = start({ name: "Loans", zone: "UTC" });
  act(() => hook.result.current.put({ name: "Tours" }));
  hook.rerender({ saved: { name: "Loans", zone: "Europe/Lisbon" } });
  expect(hook.result.current.fields).toEqual({ name: "Tours", zone: "Europe/Lisbon" });
  expect(hook.result.current.changed).toEqual({ name: "Tours" });
  expect(hook.result.current.overtaken).toEqual([]);
});

it("names the fields that somebody else has changed too, until both say the same", () => {
  const hook = start({ name: "Loans" });
  act(() => hook.result.current.put({ name: "T" }));
  hook.rerender({ saved: { name: "Lendings" } });
  act(() => hook.result.current.put({ name: "Tours" })); // one goes on typing: it is still overtaken
  expect(hook.result.current.overtaken).toEqual(["name"]);
  hook.rerender({ saved: { name: "Tours" } });
  expect(hook.result.current.overtaken).toEqual([]);
  expect(hook.result.current.isChanged).toBe(false);
});

it("is as saved again once one sets a field back, or starts anew", () => {
  const hook = start({ name: "Loans", zone: "UTC" });
  act(() => hook.result.current.put({ name: "Tours" }));
  act(() => hook.result.current.put({ name: "Loans" }));
  expect(hook.result.current.isChanged).toBe(false);
  hook.rerender({ saved: { name: "Lendings", zone: "UTC" } });
  act(() => hook.result.current.put({ zone: undefined }));
  expect(hook.result.current.changed).toEqual({ zone: undefined });
  act(() => hook.result.current.restart());
  expect(hook.result.current.fields).toEqual({ name: "Lendings", zone: "UTC" });
});
