import { describe, expect, it } from "vitest";
import { readClipboard, readTable, writeClipboard } from "./clipboard";

const page = (rows: string) => `<html><body><!-- copied --><table><tbody>${rows}</tbody></table></body></html>`;

describe("a table of HTML", () => {
  it.each([
    ["words, trimmed", "<tr><td> Brass\n  bell </td><th>Due</th></tr>", [["Brass bell", "Due"]]],
    ["line breaks", "<tr><td>One<br>Two<p>Three</p></td></tr>", [["One\nTwo\nThree"]]],
    [
      "a link with its words",
      '<tr><td><a href="https://example.org/a">The file</a></td></tr>',
      [["The file <https://example.org/a>"]],
    ],
    [
      "a link that is its address",
      '<tr><td><a href="https://example.org/a">https://example.org/a</a></td></tr>',
      [["https://example.org/a"]],
    ],
    ["no link that would run something", '<tr><td><a href="javascript:alert(1)">Press</a></td></tr>', [["Press"]]],
    [
      "times and values",
      '<tr><td><time datetime="2026-12-04">4 Dec</time></td><td><data value="12.5">12 1/2</data></td></tr>',
      [["2026-12-04", "12.5"]],
    ],
    ["boxes", '<tr><td><input type="checkbox" checked></td><td><input type="checkbox"></td></tr>', [["yes", "no"]]],
    [
      "cells that reach across and down",
      '<tr><td rowspan="2">A</td><td colspan="2">B</td></tr><tr><td>C</td><td>D</td></tr>',
      [
        ["A", "B", ""],
        ["", "C", "D"],
      ],
    ],
    ["a table within a cell as its words", "<tr><td>X<table><tr><td>in</td></tr></table></td></tr>", [["Xin"]]],
  ])("gives %s", (_, rows, block) => expect(readTable(page(rows))).toEqual(block));

  it("is none where there is none", () => {
    expect(readTable("<p>Text</p>")).toBeUndefined();
    expect(readTable("")).toBeUndefined();
  });
});

it("comes back as it was copied, as a table and as text", () => {
  const kept = new Map<string, string>();
  const data = { setData: (k: string, v: string) => void kept.set(k, v), getData: (k: string) => kept.get(k) ?? "" };
  const block = [
    ["Bell & <rope>", "One\nTwo"],
    ["", "Marta Quell; Joren Aske"],
  ];
  writeClipboard(data, block);
  expect(readClipboard(data)).toEqual(block);
  kept.delete("text/html");
  expect(readClipboard(data)).toEqual(block);
});
