import { useEffect, useState } from "react";

// useSettled gives a value as it is once it has not changed for a while, in milliseconds.
export function useSettled<T>(value: T, rest: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(value), rest);
    return () => window.clearTimeout(timer);
  }, [value, rest]);
  return settled;
}
