// What others do, as it happens. However many pages of the console are open in
// a browser, one of them holds the stream of events and passes them on, since a
// browser keeps few connections to one service. When that page goes, another
// takes over from the last event it saw.
import type { LiveEvent } from "./client";

type Listener = (e: LiveEvent) => void;

const name = "kavlo events";
const listeners = new Set<Listener>();
const others = new BroadcastChannel(name);
let last = 0;
let stop: (() => void) | undefined;

// since says, before anybody listens, up to which change set all is known.
export function since(seq: number) {
  if (!stop) last = Math.max(last, seq);
}

// listen calls back for every change set until the returned function is called.
export function listen(listener: Listener): () => void {
  listeners.add(listener);
  if (!stop) begin();
  return () => {
    listeners.delete(listener);
    if (listeners.size === 0) end();
  };
}

function deliver(e: LiveEvent) {
  if (e.seq <= last) return;
  last = e.seq;
  for (const l of listeners) l(e);
}

others.onmessage = (e: MessageEvent<LiveEvent>) => deliver(e.data);

function begin() {
  const over = new AbortController();
  stop = () => over.abort();
  const stream = () =>
    new Promise<void>((ended) => {
      // The browser reconnects by itself and says the last event it saw.
      const source = new EventSource(`/api/v1/events?after=${last}`);
      source.addEventListener("change", (e: MessageEvent<string>) => {
        const event = JSON.parse(e.data) as LiveEvent;
        others.postMessage(event);
        deliver(event);
      });
      over.signal.addEventListener("abort", () => {
        source.close();
        ended();
      });
    });
  if (!("locks" in navigator))
    void stream(); // an address that is neither https nor this machine
  else void navigator.locks.request(name, { signal: over.signal }, stream).catch(() => undefined);
}

function end() {
  stop?.();
  stop = undefined;
}

// A page that the browser keeps in store, to come back to, must not hold the stream.
window.addEventListener("pagehide", end);
window.addEventListener("pageshow", (e) => {
  if (e.persisted && listeners.size > 0 && !stop) begin();
});
