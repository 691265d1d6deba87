import { render } from "@testing-library/react";
import { expect, test } from "vitest";

import { Sentence } from "./Sentence";

test.each([
  [
    "When Stage changes in Requested, if `Due before today`: set Flag to late.",
    "<p>When Stage changes in Requested, if <code>Due before today</code>: set Flag to late.</p>",
  ],
  ["Nothing set apart.", "<p>Nothing set apart.</p>"],
  ["One ` alone stays.", "<p>One ` alone stays.</p>"],
  ["`A` and `B`", "<p><code>A</code> and <code>B</code></p>"],
  ["`<b>`", "<p><code>&lt;b&gt;</code></p>"],
])("clauses of %s are set as code", (text, html) => {
  const { container } = render(
    <p>
      <Sentence text={text} />
    </p>,
  );
  expect(container.innerHTML).toBe(html);
});
