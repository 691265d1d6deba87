// How wide a text is in a cell, as the sum of its letters: where it fits, nothing needs to be cut
// off, and a cell that cuts nothing off is drawn in half the time.

const font = '14px "Source Sans 3 Variable"'; // of cells, see theme.css
const letters = new Map<number, number>(); // widths in pixels, by code
let canvas: CanvasRenderingContext2D | null | undefined;

/** textWidth gives the width of a text in pixels; Infinity where that is not known yet. */
export function textWidth(text: string): number {
  let sum = 0;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    const width = letters.get(code) ?? measure(code);
    sum += width;
    if (sum === Infinity) break;
  }
  return sum;
}

function measure(code: number): number {
  if (code > 0x24f || !document.fonts?.check(font)) return Infinity; // put together, or not loaded
  if (canvas === undefined) canvas = document.createElement("canvas").getContext("2d");
  if (!canvas) return Infinity;
  canvas.font = font;
  const isDigit = code >= 48 && code <= 57;
  const like = isDigit ? [..."0123456789"] : [String.fromCharCode(code)]; // digits are as wide as the widest
  const width = Math.max(...like.map((c) => canvas?.measureText(c).width ?? Infinity));
  letters.set(code, width);
  return width;
}
