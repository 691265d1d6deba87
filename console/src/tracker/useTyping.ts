// The cell that somebody types in. The text goes to the row in which it was typed, wherever that
// is now. What was there when typing began goes with it, so that a change by somebody else
// meanwhile is noticed.
import { useEffect, useRef, useState } from "react";
import type { CellEdit } from "./useEdits";
import type { RowStore } from "./rowStore";

type Typing = { cell: CellEdit; was: string; text: string }; // was: what an editor shows of the cell

type Given = {
  store: RowStore;
  onSet: (edit: CellEdit) => void;
  /** onTyping is told at each key what would be set, and nothing once it is, or is given up. */
  onTyping: (edit: CellEdit | undefined) => void;
};

export function useTyping({ store, onSet, onTyping }: Given) {
  const [editing, setEditing] = useState<Typing>();
  const now = useRef<Typing>(undefined); // with the text as it stands in the editor
  const stop = () => {
    now.current = undefined;
    setEditing(undefined);
  };
  const begin = (typing: Typing) => {
    now.current = typing;
    setEditing(typing);
    if (typing.text !== typing.was) onTyping({ ...typing.cell, value: typing.text });
  };
  const type = (text: string) => {
    if (!now.current) return;
    now.current = { ...now.current, text };
    onTyping({ ...now.current.cell, value: text });
  };
  /** keep saves what stands in the editor and closes it. */
  const keep = () => {
    const typed = now.current;
    stop();
    if (!typed) return;
    const { cell, was, text } = typed;
    const isRefused = store.typedInto(cell.row.id, cell.column.name)?.why !== undefined;
    if (isRefused || text !== was) onSet({ ...cell, value: text });
    onTyping(undefined);
  };
  const cancel = () => {
    stop();
    onTyping(undefined);
  };
  useLeaving(keep);
  return { editing, begin, type, keep, cancel };
}

// useLeaving does something when the page is left, or what is on it: who closes it while typing
// has typed nevertheless.
function useLeaving(keep: () => void) {
  const now = useRef(keep);
  useEffect(() => {
    now.current = keep;
  });
  useEffect(() => {
    const leave = () => now.current();
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, []);
}
