import { useSyncExternalStore } from "react";

const wish = window.matchMedia("(prefers-color-scheme: dark)");

function subscribe(changed: () => void) {
  wish.addEventListener("change", changed);
  return () => wish.removeEventListener("change", changed);
}

// useDark tells whether the person's system asks for dark pages.
export function useDark(): boolean {
  return useSyncExternalStore(subscribe, () => wish.matches);
}
