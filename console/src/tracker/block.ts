// Blocks of cells on the clipboard, as spreadsheet programs write them: lines
// of cells parted by tabs, a cell in quotes where it holds a tab or a line break.

export function writeBlock(cells: string[][]): string {
  return cells
    .map((line) => line.map((c) => (/["\t\n]/.test(c) ? `"${c.replaceAll('"', '""')}"` : c)).join("\t"))
    .join("\n");
}

export function readBlock(text: string): string[][] {
  const lines: string[][] = [];
  let line: string[] = [];
  let cell = "";
  let quoted = false;
  const s = text.replaceAll("\r\n", "\n");
  for (let i = 0; i < s.length; i++) {
    const c = s.charAt(i);
    if (quoted) {
      if (c === '"' && s[i + 1] === '"') {
        cell += '"';
        i++;
      } else if (c === '"') quoted = false;
      else cell += c;
    } else if (c === '"' && cell === "") quoted = true;
    else if (c === "\t") {
      line.push(cell);
      cell = "";
    } else if (c === "\n") {
      lines.push([...line, cell]);
      line = [];
      cell = "";
    } else cell += c;
  }
  if (cell !== "" || line.length > 0) lines.push([...line, cell]);
  return lines;
}

/** tile repeats a block over a range of which it fits into each side a whole number of times. */
export function tile(block: string[][], rows: number, cols: number): string[][] {
  const height = block.length;
  const width = Math.max(0, ...block.map((line) => line.length));
  if (height === 0 || width === 0) return block;
  const down = rows % height === 0 ? rows : height;
  const across = cols % width === 0 ? cols : width;
  return Array.from({ length: Math.max(down, height) }, (_, r) =>
    Array.from({ length: Math.max(across, width) }, (_, c) => block[r % height]?.[c % width] ?? ""),
  );
}
