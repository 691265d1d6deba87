// Values of the wire as people read them.
export function show(v: unknown): string {
  if (v === null || v === undefined) return "";
  if (v === true) return "yes";
  if (v === false) return "no";
  if (Array.isArray(v)) return v.map(show).join(", ");
  if (typeof v === "object")
    return Object.entries(v)
      .map(([k, x]) => `${k}: ${show(x)}`)
      .join(", ");
  return String(v);
}

export function orBlank(v: unknown): string {
  return show(v) || "blank";
}

/** linked writes an address and the words shown for it; blank words: the address alone. */
export const linked = (to: string, words: string) => (words === "" ? to : `${words} <${to}>`);

// address takes "label <address>" apart, as links and files are written.
export function address(v: string): { to: string; label: string } {
  const m = /^(.*) <([^<>]+)>$/.exec(v);
  return m ? { label: m[1] ?? "", to: m[2] ?? "" } : { label: v, to: v };
}
