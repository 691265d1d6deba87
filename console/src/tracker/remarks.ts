// What an answer tells of texts that do not fit or were read in one of two ways.
import { t } from "@lingui/core/macro";
import type { ChangeSet, Problem } from "../api/client";

type Odd = NonNullable<ChangeSet["odd"]>[number] | NonNullable<Problem["odd"]>[number];

export function sayOdd(o: Odd): string {
  return t`${o.column} of ${o.label}: “${o.value}” ${o.why}${o.hint ? `: ${o.hint}` : ""}`;
}

export function remarks(set: Pick<ChangeSet, "odd" | "read">): string[] {
  return [
    ...(set.read ?? []).map((r) => t`${r.column} of ${r.label}: read “${r.value}” as ${r.as}`),
    ...(set.odd ?? []).map(sayOdd),
  ];
}
