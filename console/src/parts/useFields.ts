// The fields of what is saved, as somebody changes them: those that they leave alone follow what
// others save, those that they have changed stay, and it is known which of them were overtaken.
import { useMemo, useState } from "react";

type Mine<T> = { [K in keyof T]?: { to: T[K] | undefined; from: T[K] | undefined } };

const alike = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** useFields edits what is saved field by field; saved must be the same object while nothing is saved. */
export function useFields<T extends object>(saved: T) {
  const [mine, setMine] = useState<Mine<T>>({});
  const keys = (Object.keys(mine) as (keyof T)[]).filter((k) => !alike(mine[k]?.to, saved[k]));
  if (keys.length < Object.keys(mine).length) setMine(Object.fromEntries(keys.map((k) => [k, mine[k]])) as Mine<T>);
  return useMemo(() => {
    const keys = Object.keys(mine) as (keyof T)[];
    const changed = Object.fromEntries(keys.map((k) => [k, mine[k]?.to])) as Partial<T>;
    return {
      fields: { ...saved, ...changed },
      changed, // of those, what differs from what is saved
      isChanged: keys.length > 0,
      overtaken: keys.filter((k) => !alike(mine[k]?.from, saved[k])), // what somebody else has changed since, too
      put: (more: Partial<T>) =>
        setMine((before) => {
          const now = { ...before };
          for (const k of Object.keys(more) as (keyof T)[])
            now[k] = { to: more[k], from: before[k] ? before[k].from : saved[k] };
          return now;
        }),
      restart: () => setMine({}),
    };
  }, [mine, saved]);
}
