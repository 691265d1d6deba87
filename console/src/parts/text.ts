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

// address takes "label <address>" apart, as links and files are written.
export function address(v: string): { to: string; label: string } {
  const m = /^(.*) <([^<>]+)>$/.exec(v);
  return m ? { label: m[1] ?? "", to: m[2] ?? "" } : { label: v, to: v };
}
