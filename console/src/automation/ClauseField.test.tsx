import { EditorView } from "@codemirror/view";
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { afterEach, expect, it, vi } from "vitest";
import { openPage, service, tracker } from "../testing/page";
import { ClauseField } from "./ClauseField";
import { bytesOf, mended, placeOf } from "./clauseText";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function Field() {
  const [value, setValue] = useState("é is Stge");
  return (
    <>
      <ClauseField tracker="t1" tabs={["Loans"]} edits label="Clause" value={value} onChange={setValue} />
      <output>{value}</output>
      <button onClick={() => setValue("Due is blank")}>other</button>
    </>
  );
}

it("counts places in letters and bytes, and reads what a message offers", () => {
  expect(bytesOf("é is")).toBe(5);
  expect(placeOf("é is", 3)).toBe(2);
  expect(mended("there is no column Stge: did you mean Stage?")).toBe("Stage");
  expect(mended("did you mean [Loan no]?")).toBe("[Loan no]");
  expect(mended("did you mean Due or Done?")).toBeUndefined();
  expect(mended("a value is missing")).toBeUndefined();
});

it("underlines a mistake, and puts what is suggested in its place", async () => {
  const mistake = { says: "no column Stge: did you mean Stage?", code: "name", line: 1, column: 6, caret: "" };
  const asked = service({
    "POST /api/v1/clauses/check": { body: { mistake: { ...mistake, offset: 6, length: 4 } } },
  });
  openPage(<Field />, "*", "/", tracker("admin"));
  expect((await screen.findByRole("alert")).textContent).toContain("did you mean Stage?");
  expect(asked.at(-1)?.body).toMatchObject({ edit: true, tabs: ["Loans"], text: "é is Stge" });
  await waitFor(() => expect(document.querySelector(".cm-lintRange-error")?.textContent).toBe("Stge"));
  fireEvent.click(screen.getByText("Use Stage", { selector: ".clause-mend" }));
  expect(document.querySelector("output")?.textContent).toBe("é is Stage");
});

it("follows what is written elsewhere, and tells what is typed", async () => {
  service({ "POST /api/v1/clauses/check": { body: { type: "yes or no" } } });
  openPage(<Field />, "*", "/", tracker("admin"));
  const content = await waitFor(() => {
    const at = document.querySelector<HTMLElement>(".cm-content");
    if (!at) throw new Error("the editor is not there yet");
    return at;
  });
  expect(content.getAttribute("aria-label")).toBe("Clause");
  fireEvent.click(screen.getByText("other"));
  expect(content.textContent).toBe("Due is blank");
  EditorView.findFromDOM(content)?.dispatch({ changes: { from: 0, to: 3, insert: "Stage" } });
  await waitFor(() => expect(document.querySelector("output")?.textContent).toBe("Stage is blank"));
});
