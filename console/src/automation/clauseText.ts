// Places in a clause: the service counts bytes, an editor letters.
const encoder = new TextEncoder();
const decoder = new TextDecoder();

/** bytesOf gives how many bytes a text has. */
export const bytesOf = (text: string): number => encoder.encode(text).length;

/** placeOf gives the place in a text, in letters, of a place in bytes. */
export const placeOf = (text: string, bytes: number): number =>
  decoder.decode(encoder.encode(text).slice(0, bytes)).length;

/** mended gives what a message offers in the place of a mistake; undefined: nothing. */
export function mended(says: string): string | undefined {
  const to = /did you mean (\[[^\]]+\]|[^?]+)\?/i
    .exec(says)?.[1]
    ?.trim()
    .replace(/^"(.*)"$/, "$1");
  return to === undefined || to.includes(" or ") ? undefined : to;
}
