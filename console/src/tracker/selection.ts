// Where the keyboard stands in the grid: one active cell, and the corner from
// which a range was drawn. Pure: places in, places out.

export type Place = { row: number; col: number };
export type Selection = { active: Place; anchor: Place };
export type Size = { rows: number; cols: number; page: number };

export const start: Selection = { active: { row: 0, col: 0 }, anchor: { row: 0, col: 0 } };

export function at(place: Place): Selection {
  return { active: place, anchor: place };
}

/** clamp keeps a number from 0 to the most. */
export const clamp = (n: number, most: number) => Math.max(0, Math.min(n, most));

// step gives the selection after a key, or undefined where the key moves nothing.
export function step(s: Selection, key: string, shift: boolean, far: boolean, size: Size): Selection | undefined {
  const to = target(s.active, key, shift, far, size);
  if (!to) return undefined;
  const active = { row: clamp(to.row, size.rows - 1), col: clamp(to.col, size.cols - 1) };
  return { active, anchor: shift && key !== "Tab" && key !== "Enter" ? s.anchor : active };
}

function target({ row, col }: Place, key: string, shift: boolean, far: boolean, size: Size): Place | undefined {
  const last = { row: size.rows - 1, col: size.cols - 1 };
  switch (key) {
    case "ArrowUp":
      return { row: far ? 0 : row - 1, col };
    case "ArrowDown":
      return { row: far ? last.row : row + 1, col };
    case "ArrowLeft":
      return { row, col: far ? 0 : col - 1 };
    case "ArrowRight":
      return { row, col: far ? last.col : col + 1 };
    case "Home":
      return { row: far ? 0 : row, col: 0 };
    case "End":
      return { row: far ? last.row : row, col: last.col };
    case "PageUp":
      return { row: row - size.page, col };
    case "PageDown":
      return { row: row + size.page, col };
    case "Enter":
      return { row: row + (shift ? -1 : 1), col };
    case "Tab":
      return tabTo({ row, col }, shift, size);
  }
  return undefined;
}

function tabTo({ row, col }: Place, shift: boolean, size: Size): Place | undefined {
  const flat = row * size.cols + col + (shift ? -1 : 1);
  if (flat < 0 || flat >= size.rows * size.cols) return undefined; // out of the grid, to the page
  return { row: Math.floor(flat / size.cols), col: flat % size.cols };
}

// bounds gives the first and last place of the range.
export function bounds({ active, anchor }: Selection): { from: Place; to: Place } {
  return {
    from: { row: Math.min(active.row, anchor.row), col: Math.min(active.col, anchor.col) },
    to: { row: Math.max(active.row, anchor.row), col: Math.max(active.col, anchor.col) },
  };
}

export function holds(s: Selection, row: number, col: number): boolean {
  const { from, to } = bounds(s);
  return row >= from.row && row <= to.row && col >= from.col && col <= to.col;
}
