// A list whose entries are put in order: by dragging one onto another, or with Alt and an
// arrow key.
import { useState, type DragEvent, type KeyboardEvent } from "react";

/** placed gives a list with one of it at another place. */
export function placed<T>(list: T[], from: number, to: number): T[] {
  const out = [...list];
  const [one] = out.splice(from, 1);
  if (one === undefined || to < 0 || to > out.length) return list;
  out.splice(to, 0, one);
  return out;
}

const backward = ["ArrowUp", "ArrowLeft"];
const forward = ["ArrowDown", "ArrowRight"];

export function useOrder<T>(list: T[], onChange: (list: T[]) => void) {
  const [dragged, setDragged] = useState<number>();
  const [over, setOver] = useState<number>();
  const end = () => {
    setDragged(undefined);
    setOver(undefined);
  };
  /** entry gives what the element of an entry needs; handle what it is dragged by. */
  return (i: number) => ({
    entry: {
      "data-over": over === i && dragged !== i ? "" : undefined,
      onDragOver: (e: DragEvent) => {
        if (dragged === undefined) return;
        e.preventDefault();
        setOver(i);
      },
      onDrop: (e: DragEvent) => {
        e.preventDefault();
        if (dragged !== undefined && dragged !== i) onChange(placed(list, dragged, i));
        end();
      },
    },
    handle: {
      draggable: true,
      onDragStart: (e: DragEvent) => {
        e.dataTransfer.effectAllowed = "move";
        e.dataTransfer.setData("text/plain", String(i));
        setDragged(i);
      },
      onDragEnd: end,
      onKeyDown: (e: KeyboardEvent) => {
        const to = backward.includes(e.key) ? i - 1 : forward.includes(e.key) ? i + 1 : undefined;
        if (!e.altKey || to === undefined || to < 0 || to >= list.length) return;
        e.preventDefault();
        onChange(placed(list, i, to));
      },
    },
  });
}
