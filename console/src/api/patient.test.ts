import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { once, patient } from "./patient";

beforeEach(() => vi.useFakeTimers());
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

// away lets the service be away for so many requests, and gives what reached it.
function away(times: number, proxied = false) {
  const sent: { key: string | null; body: string }[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push({ key: request.headers.get("Idempotency-Key"), body: await request.text() });
    if (sent.length <= times && proxied) return new Response("Bad Gateway", { status: 502 });
    if (sent.length <= times) throw new TypeError("Failed to fetch");
    return new Response("done");
  });
  return sent;
}

const put = (signal?: AbortSignal) =>
  new Request("http://kavlo.example.org/x", { method: "PUT", body: "late loans", signal });

it("sends a change until the service answers, each time as the same", async () => {
  const sent = away(3);
  const answer = patient(put());
  await vi.advanceTimersByTimeAsync(10_000);
  expect(await (await answer).text()).toBe("done");
  expect(sent).toHaveLength(4);
  expect(new Set(sent.map((s) => s.key)).size).toBe(1);
  expect(sent[0]?.key).toMatch(/^[0-9a-f]{32}$/);
  expect(sent.every((s) => s.body === "late loans")).toBe(true);
});

it("takes what a proxy says of an absent service for no answer, and what the service says for one", async () => {
  const sent = away(2, true);
  const answer = patient(put());
  await vi.advanceTimersByTimeAsync(10_000);
  expect((await answer).status).toBe(200);
  expect(sent).toHaveLength(3);
  const full = { status: 503, headers: { "Content-Type": "application/problem+json" } };
  vi.stubGlobal("fetch", async () => new Response("{}", full));
  expect((await patient(put())).status).toBe(503);
});

it("gives up after ten minutes, or when it is stopped", async () => {
  away(Infinity);
  const late = expect(patient(put())).rejects.toThrow("Failed to fetch");
  await vi.advanceTimersByTimeAsync(11 * 60_000);
  await late;
  const stop = new AbortController();
  const stopped = expect(patient(put(stop.signal))).rejects.toThrow();
  stop.abort();
  await vi.advanceTimersByTimeAsync(5_000);
  await stopped;
});

it("asks once, and so sends what somebody else keeps", async () => {
  const sent = away(1);
  await expect(patient(new Request("http://kavlo.example.org/x"))).rejects.toThrow("Failed to fetch");
  expect(sent[0]?.key).toBeNull();
  await expect(away(1) && once(put())).rejects.toThrow("Failed to fetch");
});
