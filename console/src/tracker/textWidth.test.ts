import { afterEach, expect, it, vi } from "vitest";

afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
  vi.resetModules();
});

async function withFont(loaded: boolean) {
  const widths: Record<string, number> = { a: 7, b: 8, "1": 6, "8": 9, " ": 3 };
  const measureText = vi.fn((text: string) => ({ width: widths[text] ?? 5 }));
  vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue({ measureText, font: "" } as never);
  const fonts = { check: vi.fn(() => loaded) };
  Object.defineProperty(document, "fonts", { value: fonts, configurable: true });
  const { textWidth } = await import("./textWidth");
  return { textWidth, measureText, fonts };
}

it("adds up letters, each measured once, and takes all digits for the widest", async () => {
  const { textWidth, measureText } = await withFont(true);
  expect(textWidth("ab a")).toBe(7 + 8 + 3 + 7);
  expect(measureText).toHaveBeenCalledTimes(3);
  expect(textWidth("1")).toBe(9);
  expect(textWidth("")).toBe(0);
});

it("knows no width of letters that are put together, nor before the font is there", async () => {
  const { textWidth, fonts } = await withFont(true);
  expect(textWidth("ab 漢")).toBe(Infinity);
  fonts.check.mockReturnValue(false);
  expect(textWidth("c")).toBe(Infinity);
  fonts.check.mockReturnValue(true);
  expect(textWidth("c")).toBe(5);
});
