import { describe, expect, it } from "vitest";
import { readBlock, tile, writeBlock } from "./block";

describe("blocks on the clipboard", () => {
  it("come back as they went", () => {
    const blocks = [
      [["a"]],
      [
        ["a", "b"],
        ["c", ""],
      ],
      [['say "so"', "two\nlines", "tab\tin"]],
      [
        ["", ""],
        ["", ""],
      ],
    ];
    for (const block of blocks) expect(readBlock(writeBlock(block))).toEqual(block);
  });

  it("are read as spreadsheet programs write them", () => {
    expect(readBlock("a\tb\r\nc\td\r\n")).toEqual([
      ["a", "b"],
      ["c", "d"],
    ]);
    expect(readBlock('"two\r\nlines"\tx')).toEqual([["two\nlines", "x"]]);
    expect(readBlock('5" pipe')).toEqual([['5" pipe']]);
    expect(readBlock("")).toEqual([]);
  });

  it("fill a range as often as they fit into it", () => {
    expect(tile([["a"]], 2, 2)).toEqual([
      ["a", "a"],
      ["a", "a"],
    ]);
    expect(tile([["a", "b"]], 2, 3)).toEqual([
      ["a", "b"],
      ["a", "b"],
    ]);
    expect(tile([["a"], ["b"]], 1, 1)).toEqual([["a"], ["b"]]);
    expect(tile([], 2, 2)).toEqual([]);
  });
});
