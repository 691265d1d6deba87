// The rows that are being dragged, within this window, and what moves them: tabs at the left take
// them as well as places in the grid.

export type Dragged = { tracker: string; tab: string; moveTo: (tab: string) => void };

let now: Dragged | undefined;

/** dragged holds what is being dragged from its beginning to its end. */
export const dragged = {
  begin: (d: Dragged) => {
    now = d;
  },
  end: () => {
    now = undefined;
  },
  /** goes says whether a tab takes what is being dragged. */
  goes: (tracker: string, tab: string): boolean => now !== undefined && now.tracker === tracker && now.tab !== tab,
  now: (): Dragged | undefined => now,
};
