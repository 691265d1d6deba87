// Work that takes a while and can be stopped.
import { useRef, useState } from "react";

export type WorkingState = { since: number | undefined; stopped: boolean; stop: () => void };

export function useWorking() {
  const [since, setSince] = useState<number>();
  const [stopped, setStopped] = useState(false);
  const controller = useRef<AbortController | undefined>(undefined);
  const run = async <T>(work: (signal: AbortSignal) => Promise<T>): Promise<T> => {
    controller.current = new AbortController();
    setStopped(false);
    setSince(Date.now());
    try {
      return await work(controller.current.signal);
    } finally {
      setSince(undefined);
    }
  };
  const stop = () => {
    setStopped(true);
    controller.current?.abort();
  };
  return { run, since, stopped, stop };
}
