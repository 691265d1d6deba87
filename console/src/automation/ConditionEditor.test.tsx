import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { service } from "../testing/page";
import { column } from "../testing/samples";
import { ConditionEditor } from "./ConditionEditor";

const columns = [
  column("Object"),
  column("Stage", { type: "choice", options: [{ name: "Requested" }, { name: "Agreed" }] }),
  column("Value", { type: "number" }),
];

beforeEach(() => {
  service({ "POST /api/v1/clauses/check": { body: { ok: true, marks: [], complete: [] } } });
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function open(first: string, edits = false) {
  const wrote: string[] = [];
  function Page() {
    const [value, setValue] = useState(first);
    return (
      <ConditionEditor
        tracker="t1"
        tabs={["Agreed"]}
        columns={columns}
        people={[]}
        edits={edits}
        label="If"
        value={value}
        onChange={(clause) => {
          wrote.push(clause);
          setValue(clause);
        }}
      />
    );
  }
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Page />
    </QueryClientProvider>,
  );
  return wrote;
}

const choose = async (label: string, option: string, at = 0) => {
  const box = screen.getAllByLabelText(label)[at];
  if (!box) throw new Error(`there is no ${label}`);
  fireEvent.mouseDown(box.closest(".ant-select") ?? box);
  const found = await screen.findAllByText(option, { selector: ".ant-select-item-option-content" });
  fireEvent.click(found.at(-1) as Element);
};
const chosen = (label: string) =>
  screen.getAllByLabelText(label).map((e) => e.closest(".ant-select")?.textContent?.trim());

const typed = () => document.querySelector(".cm-content")?.textContent;

describe("a condition", () => {
  it("is built part by part, and is a clause once all is chosen", async () => {
    const wrote = open("");
    fireEvent.click(screen.getByText("Add condition"));
    expect(wrote.at(-1)).toBe("");
    await choose("Column", "Value");
    await choose("Comparison", "is more than");
    expect(wrote.at(-1)).toBe("");
    fireEvent.change(screen.getByLabelText("Value of Value"), { target: { value: "500" } });
    expect(wrote.at(-1)).toBe("Value > 500");
  });

  it("keeps its comparison where the other column can have it, and none that it cannot", async () => {
    const wrote = open('Stage is "Agreed"');
    expect(chosen("Column")).toEqual(["Stage"]);
    await choose("Column", "Value");
    expect(chosen("Column")).toEqual(["Value"]);
    expect(wrote.at(-1)).toBe("");
  });

  it("joins its parts by and, or by or", async () => {
    const wrote = open('Stage is "Agreed" and Object is not blank');
    expect(chosen("Column")).toEqual(["Stage", "Object"]);
    await choose("and, or", "or");
    expect(wrote.at(-1)).toBe('Stage is "Agreed" or Object is not blank');
    fireEvent.click(screen.getByLabelText("Delete condition 1"));
    expect(wrote.at(-1)).toBe("Object is not blank");
    fireEvent.click(screen.getByLabelText("Delete condition 1"));
    expect(wrote.at(-1)).toBe("");
  });

  it("needs no value where the comparison stands alone", async () => {
    const wrote = open("Value > 500");
    expect(screen.queryByLabelText("Value of Value")).not.toBeNull();
    await choose("Comparison", "is blank");
    expect(wrote.at(-1)).toBe("Value is blank");
    expect(screen.queryByLabelText("Value of Value")).toBeNull();
  });

  it("shows as a clause what cannot be chosen, and loses nothing of it", async () => {
    const clause = "length(Object) > 3";
    open(`${clause} and Value > 5`);
    expect(chosen("Column")).toEqual(["Value"]);
    await waitFor(() => expect(typed()).toBe(clause));
  });

  it("can be typed, and chosen again", async () => {
    open("Value > 500");
    fireEvent.click(screen.getByText("Type as a clause"));
    await waitFor(() => expect(typed()).toBe("Value > 500"));
    expect(screen.queryByLabelText("Column")).toBeNull();
    fireEvent.click(screen.getByText("Choose instead"));
    expect(chosen("Column")).toEqual(["Value"]);
  });
});
