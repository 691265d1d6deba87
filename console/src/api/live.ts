// What others do, as it happens. However many pages of the console are open in
// a browser, one of them holds the stream of events and passes them on, since a
// browser keeps few connections to one service. When that page goes, another
// takes over from the last event it saw.
import type { LiveEvent } from "./client";
import { presence, type Present } from "./presence";

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

others.onmessage = ({ data }: MessageEvent<LiveEvent | { present: Present[] }>) =>
  "present" in data ? presence.take(data.present) : deliver(data);

function begin() {
  const over = new AbortController();
  stop = () => over.abort();
  const stream = () => new Promise<void>((ended) => follow(over.signal, ended));
  if (!("locks" in navigator))
    void stream(); // an address that is neither https nor this machine
  else void navigator.locks.request(name, { signal: over.signal }, stream).catch(() => undefined);
}

// follow listens until it is told to stop. The browser reconnects by itself where a
// connection breaks; where the service refuses one, or is away, it gives up for
// good, so another is begun after a while.
function follow(over: AbortSignal, ended: () => void) {
  let source: EventSource | undefined;
  let timer: number | undefined;
  let wait = firstWait;
  const open = () => {
    source = new EventSource(`/api/v1/events?after=${last}`);
    source.addEventListener("open", () => {
      wait = firstWait;
      say("live");
    });
    source.addEventListener("change", (e: MessageEvent<string>) => {
      const event = JSON.parse(e.data) as LiveEvent;
      others.postMessage(event);
      deliver(event);
    });
    source.addEventListener("present", (e: MessageEvent<string>) => {
      const present = JSON.parse(e.data) as Present[];
      others.postMessage({ present });
      presence.take(present);
    });
    source.addEventListener("error", () => {
      say("away");
      if (source?.readyState !== EventSource.CLOSED) return;
      timer = window.setTimeout(open, wait);
      wait = Math.min(2 * wait, longestWait);
    });
  };
  open();
  over.addEventListener("abort", () => {
    window.clearTimeout(timer);
    source?.close();
    ended();
  });
}

const firstWait = 1_000; // milliseconds
const longestWait = 30_000;

// State is whether what others do is shown as it happens.
export type State = "live" | "away";

let state: State = "live";
const watchers = new Set<() => void>();

function say(now: State) {
  if (now === state) return;
  state = now;
  for (const w of watchers) w();
}

export const live = {
  state: () => state,
  subscribe: (notify: () => void): (() => void) => {
    watchers.add(notify);
    return () => watchers.delete(notify);
  },
};

function end() {
  stop?.();
  stop = undefined;
}

// A page that the browser keeps in store, to come back to, must not hold the stream.
window.addEventListener("pagehide", end);
window.addEventListener("pageshow", (e) => {
  if (e.persisted && listeners.size > 0 && !stop) begin();
});
