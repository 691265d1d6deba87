// What somebody makes of a definition until it is saved: kept by this window, with the version
// that they began from, so that nobody else's work is overwritten unseen.
import { useState } from "react";
import type { Definition } from "../api/client";
import { useKept } from "../parts/useKept";
import type { Body, Kind } from "./kinds";

export type Draft = {
  body: Body;
  from?: Definition; // as it was when one began to change it; none: a new one
};

/** draftName says under what name the draft of a definition, or of a new one, is kept. */
export const draftName = (kind: Kind, tracker: string, definition: string) => `${kind.name} ${tracker} ${definition}`;

const alike = (a: Body, b: Body) => JSON.stringify(a) === JSON.stringify(b);

/** useDraft follows what is saved until one changes something; then only the draft counts. */
export function useDraft(under: string, saved: Definition | undefined, begin: Body) {
  const kept = useKept<Draft>(under);
  const [first] = useState(begin);
  const [draft, setDraft] = useState(kept.read);
  const from = draft ? draft.from : saved;
  const put = (now: Draft | undefined) => {
    if (now) kept.write(now);
    else kept.forget();
    setDraft(now);
  };
  return {
    body: draft?.body ?? saved?.body ?? first,
    from,
    changed: draft !== undefined,
    setBody: (body: Body) =>
      put(from && alike(body, from.body) && from.version === saved?.version ? undefined : { body, from }),
    forget: () => put(undefined),
  };
}
