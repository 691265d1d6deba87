import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { generateMessageId } from "@lingui/message-utils/generateMessageId";
import { compileMessage } from "@lingui/message-utils/compileMessage";
import { cleanup, render } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { i18n } from "./runtime";

afterEach(() => {
  cleanup();
  i18n.activate("en");
});

const delete_ = (tab: string, rows: number) =>
  t`Delete tab ${tab} with ${plural(rows, { one: "# row", other: "# rows" })}?`;

const Told = ({ who }: { who: string }) => (
  <p>
    <Trans>
      Changed by <b>{who}</b>, <a href="/">see why</a>.
    </Trans>
  </p>
);

it("counts as people do", () => {
  expect(delete_("Agreed", 1)).toBe("Delete tab Agreed with 1 row?");
  expect(delete_("Agreed", 1200)).toBe("Delete tab Agreed with 1,200 rows?");
});

it("keeps what stands between angle brackets in a value", () => {
  const { container } = render(<Told who="Ines <0>Valadar</0> <1/>" />);
  expect(container.textContent).toBe("Changed by Ines <0>Valadar</0> <1/>, see why.");
  expect(container.querySelectorAll("b, a")).toHaveLength(2);
});

it("speaks another language once its catalogue is loaded", () => {
  const words = (said: [string, string][]) =>
    Object.fromEntries(said.map(([english, other]) => [generateMessageId(english), [compileMessage(other)].flat()]));
  i18n.load(
    "de",
    words([
      [
        "Delete tab {tab} with {rows, plural, one {# row} other {# rows}}?",
        "{rows, plural, one {# Zeile} other {# Zeilen}}: {tab} weg?",
      ],
      ["Changed by <0>{who}</0>, <1>see why</1>.", "<1>warum</1>: <0>{who}</0>"],
    ]),
  );
  i18n.activate("de");
  expect(delete_("Agreed", 2)).toBe("2 Zeilen: Agreed weg?");
  const { container } = render(<Told who="Ines" />);
  expect(container.innerHTML).toBe('<p><a href="/">warum</a>: <b>Ines</b></p>');
});
