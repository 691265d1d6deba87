// How a cell is set off from others: its look as the service writes it, as in
// "fill #F6E7CC, ink #7A4C06, bold", and what becomes of it on a page.
import { t } from "@lingui/core/macro";
import type { CSSProperties } from "react";
import { dark, light, washes } from "../theme";

export type CellLook = { fill?: string; ink?: string; bold?: boolean; italic?: boolean; struck?: boolean };

/** marks are the ways to write a cell, with what they are called. */
export const marks = { bold: t`bold`, italic: t`italic`, struck: t`strikethrough` };
const markNames = Object.keys(marks) as (keyof typeof marks)[];

const colours: Record<string, string> = {
  grey: t`grey`,
  blue: t`blue`,
  teal: t`teal`,
  green: t`green`,
  amber: t`amber`,
  brick: t`brick`,
  violet: t`violet`,
  rose: t`rose`,
};

/** colourName is what a colour of the palette is called; any other is called by its number. */
export const colourName = (word: string) => colours[word] ?? word;

export function parseLook(text: string | undefined): CellLook {
  const look: CellLook = {};
  for (const part of (text ?? "").split(",")) {
    const [word, colour] = part.trim().split(" ");
    if (word === "fill") look.fill = colour;
    else if (word === "ink") look.ink = colour;
    else if (word === "bold" || word === "italic" || word === "struck") look[word] = true;
  }
  return look;
}

export function writeLook(l: CellLook): string {
  const parts = [l.fill && `fill ${l.fill}`, l.ink && `ink ${l.ink}`, ...markNames.filter((m) => l[m])];
  return parts.filter(Boolean).join(", ") || "plain";
}

// wordOf gives the word for a paper of the palette, or the colour itself.
export function wordOf(fill: string): string {
  return Object.entries(washes).find(([, [paper]]) => paper === fill)?.[0] ?? fill;
}

// sayLook says in words how a cell is set off; "" for a plain one.
export function sayLook(text: string | undefined): string {
  const l = parseLook(text);
  const fill = l.fill && colourName(wordOf(l.fill));
  const ink = l.ink;
  const written = markNames.filter((m) => l[m]).map((m) => marks[m]);
  const said = [fill && t`${fill} fill`, ink && t`ink ${ink}`, ...written];
  return said.filter(Boolean).join(", ");
}

// styleOf gives the style of a cell. Whatever colours somebody chose, the text
// stays legible: its colour is drawn towards the page's until it is.
export function styleOf(text: string | undefined, isDark: boolean): CSSProperties | undefined {
  if (!text) return undefined;
  const l = parseLook(text);
  const page = isDark ? dark : light;
  const wash = l.fill && washes[wordOf(l.fill)];
  const fill = wash && isDark ? wash[2] : l.fill;
  const ground = fill ?? page.raised;
  // one of black and white is always legible
  const plain = [light.ink, dark.ink, "#000000"].find((c) => contrast(c, ground) >= enough) ?? "#FFFFFF";
  const style: CSSProperties & Record<`--${string}`, string> = {};
  if (fill) style["--fill"] = fill;
  if (fill || l.ink) style.color = legible(l.ink ?? (fill ? plain : page.ink), ground, plain);
  if (l.bold) style.fontWeight = 600;
  if (l.italic) style.fontStyle = "italic";
  if (l.struck) style.textDecoration = "line-through";
  return style;
}

// enough is the contrast that WCAG 2.2 asks of text (AA, 1.4.3).
const enough = 4.5;

function legible(ink: string, ground: string, plain: string): string {
  for (let share = 0; share < 1; share += 0.1) {
    const mixed = mix(ink, plain, share);
    if (contrast(mixed, ground) >= enough) return mixed;
  }
  return plain;
}

function parts(colour: string): number[] {
  return [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16));
}

function mix(a: string, b: string, share: number): string {
  const [from, to] = [parts(a), parts(b)];
  return "#" + from.map((v, i) => toHex(v + ((to[i] ?? v) - v) * share)).join("");
}

function toHex(v: number): string {
  return Math.round(v).toString(16).padStart(2, "0").toUpperCase();
}

// contrast is that of WCAG 2.2: from 1 to 21.
export function contrast(a: string, b: string): number {
  const [x, y] = [luminance(a), luminance(b)];
  return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05);
}

function luminance(colour: string): number {
  const [r = 0, g = 0, b = 0] = parts(colour).map((v) => {
    const s = v / 255;
    return s <= 0.04045 ? s / 12.92 : ((s + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}
