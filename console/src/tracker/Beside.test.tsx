import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { column, row } from "../testing/samples";
import { LookOf } from "./Beside";
import type { Edits } from "./useEdits";

afterEach(cleanup);

const columns = [column("Object"), column("Stage")];
const [object] = columns;

// styling opens the styles of the first cell; what is sent waits until it is answered.
function styling(looks?: Record<string, string>) {
  const sent: unknown[] = [];
  const answers: ((ok: boolean) => void)[] = [];
  const edits = {
    many: (all: unknown) => {
      sent.push(all);
      return new Promise((answer) => answers.push(answer));
    },
  } as unknown as Edits;
  const panel = (looks?: Record<string, string>, rows = ["r1"]) => (
    <LookOf
      row={row("r1", { Object: "Bell" }, { looks })}
      column={object ?? column("Object")}
      columns={columns}
      chosen={{ rows, columns: ["Object"] }}
      edits={edits}
    />
  );
  const { rerender } = render(panel(looks));
  const answer = async (at: number, ok = true) => act(() => Promise.resolve(answers[at]?.(ok)));
  return {
    sent,
    answer,
    comes: (looks: Record<string, string>) => rerender(panel(looks)),
    choose: (rows: string[]) => rerender(panel(looks, rows)),
  };
}

const fill = (name: string) => screen.getByRole("button", { name });
const mark = (name: string) => screen.getByRole("checkbox", { name });

it("shows at once what was clicked, and sends quick clicks one after the other", async () => {
  const { sent, answer, comes } = styling();
  fireEvent.click(mark("bold"));
  fireEvent.click(fill("amber"));
  expect(fill("amber").getAttribute("aria-pressed")).toBe("true");
  expect((mark("bold") as HTMLInputElement).checked).toBe(true);
  await waitFor(() => expect(sent).toEqual([[{ row: "r1", looks: { Object: "bold" } }]]));
  comes({ Object: "bold" });
  await answer(0);
  expect(fill("amber").getAttribute("aria-pressed")).toBe("true");
  await waitFor(() => expect(sent[1]).toEqual([{ row: "r1", looks: { Object: "fill #F6E7CC, bold" } }]));
  comes({ Object: "fill #F6E7CC, bold" });
  await answer(1);
  expect(fill("amber").getAttribute("aria-pressed")).toBe("true");
});

it("shows what the cell has where a style is refused", async () => {
  const { sent, answer } = styling({ Object: "italic" });
  fireEvent.click(fill("teal"));
  await waitFor(() => expect(sent).toHaveLength(1));
  await answer(0, false);
  expect(fill("teal").getAttribute("aria-pressed")).toBe("false");
  expect((mark("italic") as HTMLInputElement).checked).toBe(true);
});

it("sets whole rows off", async () => {
  const { sent, choose } = styling();
  choose(["r1", "r2"]);
  fireEvent.click(screen.getByRole("checkbox", { name: "Apply to whole rows" }));
  fireEvent.click(mark("strikethrough"));
  const looks = { Object: "struck", Stage: "struck" };
  await waitFor(() =>
    expect(sent).toEqual([
      [
        { row: "r1", looks },
        { row: "r2", looks },
      ],
    ]),
  );
});
