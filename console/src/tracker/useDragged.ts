// A range drawn with the mouse: from where its button went down to where it is, and on
// where it leaves the grid below or above.
import { useEffect, useRef, type RefObject } from "react";
import { placeOf } from "./layout";
import type { Place } from "./selection";

const every = 40; // milliseconds between rows while the mouse is beyond the grid

/** useDragged gives what begins to draw a range; onTo is told of its two ends. */
export function useDragged(grid: RefObject<HTMLElement | null>, onTo: (anchor: Place, to: Place) => void) {
  const told = useRef(onTo);
  useEffect(() => {
    told.current = onTo;
  });
  const stop = useRef<() => void>(undefined);
  useEffect(() => () => stop.current?.(), []);
  return (anchor: Place) => {
    stop.current?.();
    let last = anchor;
    let beyond = 0; // rows a tick
    const to = (place: Place) => {
      if (place.row === last.row && place.col === last.col) return;
      last = place;
      told.current(anchor, place);
    };
    const move = (e: MouseEvent) => {
      const box = grid.current?.getBoundingClientRect();
      beyond = !box || (e.clientY <= box.bottom && e.clientY >= box.top) ? 0 : e.clientY > box.bottom ? 1 : -1;
      const under = document.elementFromPoint(e.clientX, e.clientY);
      const place = under && grid.current?.contains(under) ? placeOf(under) : undefined;
      if (place) to(place);
    };
    const timer = window.setInterval(() => beyond && to({ ...last, row: Math.max(0, last.row + beyond) }), every);
    const end = () => {
      window.clearInterval(timer);
      window.removeEventListener("mousemove", move);
      window.removeEventListener("mouseup", end);
      stop.current = undefined;
    };
    stop.current = end;
    window.addEventListener("mousemove", move);
    window.addEventListener("mouseup", end);
  };
}
