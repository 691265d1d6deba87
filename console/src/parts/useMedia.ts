import { useCallback, useSyncExternalStore } from "react";

const asked = new Map<string, MediaQueryList>(); // each is made once: every cell asks

function media(query: string): MediaQueryList {
  const known = asked.get(query) ?? window.matchMedia(query);
  asked.set(query, known);
  return known;
}

/** useMedia tells whether a media query holds for the window now. */
export function useMedia(query: string): boolean {
  const subscribe = useCallback(
    (changed: () => void) => {
      media(query).addEventListener("change", changed);
      return () => media(query).removeEventListener("change", changed);
    },
    [query],
  );
  return useSyncExternalStore(subscribe, () => media(query).matches);
}

/** useDark tells whether the person's system asks for dark pages. */
export const useDark = () => useMedia("(prefers-color-scheme: dark)");

/** useNarrow tells whether the window is that of a telephone, or one made as narrow by zooming. */
export const useNarrow = () => useMedia("(max-width: 700px)");

/** useCalm tells whether the person's system asks that nothing moves by itself. */
export const useCalm = () => useMedia("(prefers-reduced-motion: reduce)");

/** useRoom gives a width, in pixels, for a column of a table: none in a narrow window, where other columns need it. */
export function useRoom() {
  const isNarrow = useNarrow();
  return (px: number) => (isNarrow ? undefined : px);
}
