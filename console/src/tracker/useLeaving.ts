import { useEffect, useRef } from "react";

/** useLeaving does something when the page is left: who closes it while typing has typed nevertheless. */
export function useLeaving(keep: () => void) {
  const now = useRef(keep);
  useEffect(() => {
    now.current = keep;
  });
  useEffect(() => {
    const leave = () => now.current();
    window.addEventListener("pagehide", leave);
    return () => window.removeEventListener("pagehide", leave);
  }, []);
}
