import { describe, expect, it } from "vitest";
import { dark, light } from "../theme";
import { contrast, parseLook, sayLook, styleOf, writeLook } from "./cellLook";

describe("looks", () => {
  it.each(["fill #F6E7CC, ink #7A4C06, bold, italic, struck", "ink #FF0000", "struck", "plain"])(
    "%s comes back from its text",
    (text) => {
      expect(writeLook(parseLook(text))).toBe(text);
    },
  );

  it("are said in words", () => {
    expect(sayLook("fill #F6E7CC, bold")).toBe("amber fill, bold");
    expect(sayLook("fill #123456")).toBe("#123456 fill");
    expect(sayLook(undefined)).toBe("");
  });

  it("leave plain cells alone", () => {
    expect(styleOf(undefined, false)).toBeUndefined();
    expect(styleOf("bold", false)).toEqual({ fontWeight: 600 });
  });
});

describe("whatever the colours, text is legible", () => {
  const colours = ["#FFFF00", "#000080", "#808080", "#F6E7CC", "#C7831A", "#FFFFFF", "#010203"];
  it.each([false, true])("on the dark page: %s", (isDark) => {
    const page = isDark ? dark : light;
    for (const fill of [undefined, ...colours]) {
      for (const ink of [undefined, ...colours]) {
        const style = styleOf(writeLook({ fill, ink, bold: true }), isDark) as Record<string, string> | undefined;
        const ground = style?.["--fill"] ?? page.raised;
        expect(contrast(style?.color ?? page.ink, ground), `${fill} ${ink}`).toBeGreaterThanOrEqual(4.5);
      }
    }
  });
});
