// F6 goes from one part of the page to the next, to where one was in it last.
import { useEffect } from "react";

const regions = ".top, #side, #page .tracker-bar, #page .grid, #page > :not(.tracker), #page .why";
const focusable = "a[href], button, input, select, textarea, [tabindex='0']";

const shown = (e: Element) => e.getClientRects().length > 0;

export function useRegions() {
  useEffect(() => {
    const last = new WeakMap<Element, HTMLElement>();
    const all = () => [...document.querySelectorAll(regions)].filter(shown);
    const holder = (e: Element | null) => all().find((r) => r.contains(e));
    const onFocus = (e: FocusEvent) => {
      const region = holder(e.target as Element);
      if (region && e.target instanceof HTMLElement) last.set(region, e.target);
    };
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== "F6") return;
      e.preventDefault();
      const parts = all();
      const here = parts.findIndex((r) => r.contains(document.activeElement));
      for (let step = 1; step <= parts.length; step++) {
        const region = parts.at((here + (e.shiftKey ? -step : step)) % parts.length);
        const before = region && last.get(region);
        const first = region && [...region.querySelectorAll<HTMLElement>(focusable)].find(shown);
        const to = before?.isConnected && shown(before) ? before : first;
        if (to) return to.focus();
      }
    };
    document.addEventListener("focusin", onFocus);
    document.addEventListener("keydown", onKey);
    return () => {
      document.removeEventListener("focusin", onFocus);
      document.removeEventListener("keydown", onKey);
    };
  }, []);
}
