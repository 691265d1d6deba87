import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { LiveEvent } from "./client";

// Each test has a module of its own: the stream is one for the page.
class Source {
  static all: Source[] = [];
  static readonly CLOSED = 2;
  readyState = 1;
  heard = new Map<string, (e: unknown) => void>();
  constructor(public url: string) {
    Source.all.push(this);
  }
  addEventListener(name: string, listener: (e: unknown) => void) {
    this.heard.set(name, listener);
  }
  close() {
    this.readyState = Source.CLOSED;
  }
  say(name: string, data?: unknown) {
    this.heard.get(name)?.({ data: JSON.stringify(data) });
  }
}

class Channel {
  static sent: unknown[] = [];
  static last?: Channel;
  onmessage?: (e: { data: unknown }) => void;
  constructor() {
    Channel.last = this;
  }
  postMessage(data: unknown) {
    Channel.sent.push(data);
  }
}

let stops: (() => void)[] = [];

const event = (seq: number) => ({ seq, trackers: ["t1"], rows: [], gone: [] }) as unknown as LiveEvent;

beforeEach(() => {
  vi.useFakeTimers();
  vi.resetModules();
  Source.all = [];
  Channel.sent = [];
  vi.stubGlobal("EventSource", Source);
  vi.stubGlobal("BroadcastChannel", Channel);
});
afterEach(() => {
  for (const stop of stops.splice(0)) stop();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const open = async () => {
  const { listen, live, since } = await import("./live");
  const { presence } = await import("./presence");
  const heard: number[] = [];
  since(5);
  const stop = listen((e) => void heard.push(e.seq));
  stops = [stop];
  const source = Source.all[0];
  if (!source) throw new Error("nothing listens");
  return { heard, stop, source, live, listen, presence };
};

describe("the stream of events", () => {
  it("begins after what is known, and tells each once, here and to other pages", async () => {
    const { heard, source } = await open();
    expect(source.url).toBe("/api/v1/events?after=5");
    source.say("change", event(6));
    source.say("change", event(6));
    source.say("change", event(4));
    source.say("change", event(7));
    expect(heard).toEqual([6, 7]);
    expect(Channel.sent).toHaveLength(4);
    Channel.last?.onmessage?.({ data: event(8) });
    expect(heard).toEqual([6, 7, 8]);
  });

  it("tells who is where, here and to other pages", async () => {
    const { source, presence, heard } = await open();
    const marta = [{ person: 1, name: "Marta Quell", page: "a", tracker: "t1" }];
    source.say("present", marta);
    expect(presence.list()).toEqual(marta);
    Channel.last?.onmessage?.({ data: { present: [] } });
    expect(presence.list()).toEqual([]);
    expect(heard).toEqual([]);
  });

  it("says when it is away and when it is back, and begins again later and later", async () => {
    const { source, live, heard } = await open();
    const said: string[] = [];
    live.subscribe(() => void said.push(live.state()));
    source.say("change", event(9));
    source.say("error"); // the browser comes back by itself
    expect(Source.all).toHaveLength(1);
    source.close();
    source.say("error"); // it has given up
    await vi.advanceTimersByTimeAsync(1_000);
    expect(Source.all.map((s) => s.url)).toEqual(["/api/v1/events?after=5", "/api/v1/events?after=9"]);
    const second = Source.all[1];
    second?.close();
    second?.say("error");
    await vi.advanceTimersByTimeAsync(1_500);
    expect(Source.all).toHaveLength(2);
    await vi.advanceTimersByTimeAsync(1_000);
    expect(Source.all).toHaveLength(3);
    Source.all[2]?.say("open");
    expect(said).toEqual(["away", "live"]);
    expect(heard).toEqual([9]);
  });

  it("ends with the last who listens, and when the browser stores the page", async () => {
    const { source, stop, listen } = await open();
    const another = listen(() => undefined);
    stop();
    expect(source.readyState).toBe(1);
    window.dispatchEvent(new Event("pagehide"));
    expect(source.readyState).toBe(Source.CLOSED);
    window.dispatchEvent(new PageTransitionEvent("pageshow", { persisted: true }));
    const [, again, ...more] = Source.all.filter((s) => s.url === source.url); // pages of other tests hear it too
    expect([again?.readyState, more]).toEqual([1, []]);
    another();
    expect(again?.readyState).toBe(Source.CLOSED);
  });
});
