// Finding options by what is typed. What could mean two of them means neither: only a whole name
// is taken, or else the only one that begins so, or else the only one that holds what is typed.

export type Option = {
  name: string; // as it is written into the cell
  also?: string; // what else finds it, such as an address
  colour?: string;
};

const folded = (s: string) => s.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase().trim();

/** matching gives the options that hold what is typed, those first that begin with it. */
export function matching(options: Option[], typed: string): Option[] {
  const wanted = folded(typed);
  const begins = (o: Option) => folded(o.name).startsWith(wanted);
  const found = options.filter((o) => folded(o.name).includes(wanted) || folded(o.also ?? "").includes(wanted));
  return [...found.filter(begins), ...found.filter((o) => !begins(o))];
}

/** meant gives the one option that what is typed can mean. */
export function meant(options: Option[], typed: string): Option | undefined {
  const wanted = folded(typed);
  if (wanted === "") return undefined;
  const ways = [
    options.filter((o) => folded(o.name) === wanted || folded(o.also ?? "") === wanted),
    options.filter((o) => folded(o.name).startsWith(wanted)),
    matching(options, typed),
  ];
  const found = ways.find((way) => way.length > 0) ?? [];
  return found.length === 1 ? found[0] : undefined;
}

// A cell of several is written with semicolons between; the last part is being typed.

export function parts(text: string): { chosen: string[]; typing: string } {
  const all = text.split(";").map((s) => s.trim());
  return { chosen: all.slice(0, -1).filter(Boolean), typing: all.at(-1) ?? "" };
}

/** begun gives the text of a cell of several to which one can add. */
export const begun = (text: string) => (text.trim() === "" ? "" : `${text.trim().replace(/;$/, "")}; `);

/** toggled adds an option to the text of a cell of several, or takes it out. */
export function toggled(text: string, name: string): string {
  const { chosen } = parts(text);
  const next = chosen.includes(name) ? chosen.filter((c) => c !== name) : [...chosen, name];
  return begun(next.join("; "));
}

/** finished is the text of a cell of several as it is saved. */
export const finished = (text: string) =>
  text
    .split(";")
    .map((s) => s.trim())
    .filter(Boolean)
    .join("; ");

type Named = { name: string; address: string };

/** peopleOptions calls people by name, and by name and address where two are called so. */
export function peopleOptions(people: Named[]): Option[] {
  const count = new Map<string, number>();
  for (const p of people) count.set(folded(p.name), (count.get(folded(p.name)) ?? 0) + 1);
  return people.map((p) => ({
    name: count.get(folded(p.name)) === 1 ? p.name : `${p.name} <${p.address}>`,
    also: p.address,
  }));
}
