import { useCallback, useLayoutEffect, useRef } from "react";

/** useSteady gives a function that stays the same and calls the newest one. It is for what people do, not for drawing. */
export function useSteady<A extends unknown[], R>(newest: (...args: A) => R): (...args: A) => R {
  const now = useRef(newest);
  useLayoutEffect(() => {
    now.current = newest;
  });
  return useCallback((...args: A) => now.current(...args), []);
}
