// The selection is held by the rows in it, and not by where they stand: it goes with them when
// others come and go. When its row leaves the list under somebody's hands, nothing is selected
// in its place until they choose again: keys meant for one row must not change another.
import { useLayoutEffect, useMemo, useRef, useState } from "react";
import { cellSelector } from "./layout";
import { at, clamp, start, type Place, type Selection } from "./selection";

type Held = { selection: Selection; id?: string; anchorId?: string };

/** follow gives where the selection is now, and whether its row has left. */
export function follow(held: Held, ids: string[], cols: number): { selection: Selection; adrift: boolean } {
  if (ids.length === 0) return { selection: start, adrift: false };
  const find = (place: Place, id: string | undefined) => {
    const row = clamp(place.row, ids.length - 1);
    const found = id === undefined || ids[row] === id ? row : ids.indexOf(id);
    return { at: { row: found < 0 ? row : found, col: clamp(place.col, cols - 1) }, left: found < 0 };
  };
  const active = find(held.selection.active, held.id);
  if (active.left) return { selection: at(active.at), adrift: true };
  const anchor = find(held.selection.anchor, held.anchorId);
  return { selection: { active: active.at, anchor: anchor.at }, adrift: false };
}

export function useHeld(ids: string[], cols: number, scroller: React.RefObject<HTMLElement | null>) {
  const [held, setHeld] = useState<Held>({ selection: start });
  const focused = useRef(false);
  const { selection, adrift } = useMemo(() => follow(held, ids, cols), [held, ids, cols]);
  const hold = (s: Selection) => setHeld({ selection: s, id: ids[s.active.row], anchorId: ids[s.anchor.row] });
  useLayoutEffect(() => {
    if (!adrift) return;
    // nobody is at work here, so the row in its place will do
    if (!focused.current) hold(selection);
    else if (document.activeElement === document.body)
      scroller.current?.querySelector<HTMLElement>(cellSelector(selection.active))?.focus({ preventScroll: true });
  });
  const onFocus = () => {
    focused.current = true;
    if (held.id === undefined) hold(selection);
  };
  const onBlur = (e: React.FocusEvent) => {
    if (scroller.current?.contains(e.relatedTarget)) return;
    focused.current = false;
    if (adrift) hold(selection);
  };
  return { selection, left: adrift ? held.id : undefined, hold, onFocus, onBlur };
}

const near = 50; // rows

/**
 * useAnchored keeps the row at hand where it is on the screen when rows above it come and go.
 * At the top of the list those that come are seen, unless somebody types.
 */
export function useAnchored(
  scroller: React.RefObject<HTMLElement | null>,
  id: string | undefined,
  row: number,
  height: number,
  typing: boolean,
) {
  const was = useRef({ id, row });
  useLayoutEffect(() => {
    const before = was.current;
    was.current = { id, row };
    const by = row - before.row;
    const el = scroller.current;
    if (!el || id === undefined || before.id !== id || by === 0 || Math.abs(by) > near) return;
    if (el.scrollTop === 0 && !typing) return;
    const top = before.row * height - el.scrollTop;
    if (top >= 0 && top < el.clientHeight - height) el.scrollBy({ top: by * height, behavior: "instant" });
  });
}

/** changes says whether a key would change a cell. */
export function changes(e: React.KeyboardEvent): boolean {
  const letter = e.key.toLowerCase();
  if (e.ctrlKey || e.metaKey) return letter === "d" || letter === "r";
  return !e.altKey && (e.key.length === 1 || ["Enter", "F2", "Delete", "Backspace"].includes(e.key));
}
