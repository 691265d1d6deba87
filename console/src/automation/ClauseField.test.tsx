import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker } from "../testing/page";
import { ClauseField } from "./ClauseField";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function Field() {
  const [value, setValue] = useState("Stge is é");
  return <ClauseField tracker="t1" tabs={["Loans"]} edits label="Clause" value={value} onChange={setValue} />;
}

it("tells what is wrong with a clause, and puts what is suggested in its place", async () => {
  const asked = service({
    "POST /api/v1/clauses/check": {
      body: {
        mistake: { says: "did you mean Stage?", code: "name", line: 1, column: 1, offset: 0, length: 4, caret: "" },
        completions: [{ text: "Stage", kind: "column", says: "a choice", from: 0 }],
      },
    },
  });
  openPage(<Field />, "*", "/", tracker("keeper"));
  expect((await screen.findByRole("alert")).textContent).toBe("did you mean Stage?");
  const field = screen.getByLabelText<HTMLTextAreaElement>("Clause");
  field.setSelectionRange(4, 4);
  fireEvent.select(field);
  await waitFor(() => expect(asked.at(-1)?.body).toMatchObject({ at: 4, edit: true, tabs: ["Loans"] }));
  fireEvent.click(screen.getByText("Stage"));
  expect(field.value).toBe("Stage is é");
  fireEvent.change(field, { target: { value: "Stage is é", selectionStart: 10 } });
});
