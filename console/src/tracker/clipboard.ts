// What lies on the clipboard as cells: a table of HTML where there is one, and lines parted by
// tabs otherwise.
import { linked } from "../parts/text";
import { readBlock, writeBlock } from "./block";

/** readClipboard gives the cells of what was copied. */
export function readClipboard(data: Pick<DataTransfer, "getData">): string[][] {
  return readTable(data.getData("text/html")) ?? readBlock(data.getData("text/plain"));
}

/** readTable gives the cells of the first table of a page; undefined where there is none. */
export function readTable(html: string): string[][] | undefined {
  const table = html.includes("<t") ? new DOMParser().parseFromString(html, "text/html").querySelector("table") : null;
  if (!table) return undefined;
  const rows = [...table.querySelectorAll("tr")].filter((row) => row.closest("table") === table);
  const block: string[][] = rows.map(() => []);
  rows.forEach((row, r) => {
    let c = 0;
    for (const cell of row.cells) {
      while (block[r]?.[c] !== undefined) c++; // where one from above reaches down
      for (let down = 0; down < Math.min(cell.rowSpan, rows.length - r); down++)
        for (let across = 0; across < cell.colSpan; across++) {
          const line = block[r + down];
          if (line) line[c + across] = down + across === 0 ? textOf(cell) : "";
        }
      c += cell.colSpan;
    }
  });
  const filled = block.map((line) => Array.from(line, (text) => text ?? ""));
  return filled.length > 0 ? filled : undefined;
}

// textOf gives what a cell means: the time or value that its words stand for, the address of a
// link with its words, whether a box is ticked, and otherwise its words, line by line.
function textOf(cell: HTMLTableCellElement): string {
  const only = cell.childElementCount === 1 ? cell.firstElementChild : null;
  const words = (cell.textContent ?? "").replace(/\s+/g, " ").trim();
  if (only instanceof HTMLTimeElement && only.dateTime) return only.dateTime;
  if (only instanceof HTMLDataElement && only.value) return only.value;
  if (only instanceof HTMLInputElement && only.type === "checkbox") return only.checked ? "yes" : "no";
  if (only instanceof HTMLAnchorElement && only.textContent?.trim() === words) {
    const to = only.getAttribute("href") ?? "";
    return /^(https?|mailto):/.test(to) ? linked(to, words === to ? "" : words) : words;
  }
  const copy = cell.cloneNode(true) as HTMLElement;
  for (const begins of copy.querySelectorAll("br, p, div, li")) begins.before(lineEnd);
  return (copy.textContent ?? "")
    .split(lineEnd)
    .map((line) => line.replace(/\s+/g, " ").trim())
    .join("\n")
    .trim();
}

const lineEnd = "\u0001"; // which no text holds

/** writeClipboard puts cells on the clipboard, for programs that read tables and for others. */
export function writeClipboard(data: Pick<DataTransfer, "setData">, block: string[][]) {
  data.setData("text/plain", writeBlock(block));
  const escaped = (s: string) =>
    s.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;").replaceAll("\n", "<br>");
  const rows = block.map((line) => `<tr>${line.map((text) => `<td>${escaped(text)}</td>`).join("")}</tr>`);
  data.setData("text/html", `<table>${rows.join("")}</table>`);
}
