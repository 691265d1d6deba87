// Dragging the selected rows: to another place in the grid, or onto a tab at the left.
import { useState } from "react";
import type { Spot } from "./AddRow";
import { dragged } from "./dragged";
import { placeOf } from "./layout";

export type RowDrag = { tracker: string; moveTo: (tab: string) => void; place?: (at: Spot) => void };

export type Edge = "above" | "below";

type Given = { drag?: RowDrag; tab: string; ids: string[] };

export function useRowDrag({ drag, tab, ids }: Given) {
  const [over, setOver] = useState<{ row: number; at: Edge }>();
  const spot = (e: React.DragEvent): { row: number; at: Edge } | undefined => {
    const place = dragged.now()?.tab === tab && drag?.place ? placeOf(e.target) : undefined;
    if (!place) return undefined;
    const box = (e.target as Element).closest("[data-row]")?.getBoundingClientRect();
    return { row: place.row, at: box && e.clientY > box.top + box.height / 2 ? "below" : "above" };
  };
  const end = () => {
    dragged.end();
    setOver(undefined);
  };
  return {
    over,
    on: {
      onDragStart: (e: React.DragEvent) => {
        if (!drag || !(e.target as Element).closest(".row-grip")) return;
        e.dataTransfer.effectAllowed = "move";
        e.dataTransfer.setData("text/plain", ""); // a drag without data does not begin everywhere
        dragged.begin({ tracker: drag.tracker, tab, moveTo: drag.moveTo });
      },
      onDragOver: (e: React.DragEvent) => {
        const now = spot(e);
        if (now) e.preventDefault();
        if (now?.row !== over?.row || now?.at !== over?.at) setOver(now);
      },
      onDrop: (e: React.DragEvent) => {
        const now = spot(e);
        const id = now && ids[now.row];
        end();
        if (!now || id === undefined) return;
        e.preventDefault();
        drag?.place?.(now.at === "above" ? { before: id } : { after: id });
      },
      onDragEnd: end,
    },
  };
}
