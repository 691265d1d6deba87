// What changes something is sent until the service answers, under one key, so that it is
// done once (an Idempotency-Key). What only asks fails at once: whoever asks tries again.

const firstWait = 500; // milliseconds
const mostWait = 3_000;
const giveUp = 10 * 60_000;

export async function patient(request: Request): Promise<Response> {
  if (request.method === "GET") return window.fetch(request);
  const headers = new Headers(request.headers);
  if (!headers.has("Idempotency-Key")) headers.set("Idempotency-Key", newKey());
  const kept = new Request(request, { headers });
  const until = Date.now() + giveUp;
  for (let wait = firstWait; ; wait = Math.min(mostWait, wait * 2)) {
    const over = () => kept.signal.aborted || Date.now() + wait > until;
    try {
      const answer = await window.fetch(kept.clone());
      if (!fromBetween(answer) || over()) return answer;
    } catch (err) {
      if (over()) throw err;
    }
    await new Promise((resolve) => window.setTimeout(resolve, wait));
  }
}

// fromBetween reports whether an answer is that of a proxy which did not reach the service.
const fromBetween = (answer: Response) =>
  [502, 503, 504].includes(answer.status) && !answer.headers.get("Content-Type")?.includes("problem+json");

/** once sends a request once, for whoever keeps what could not be sent. */
export const once = (request: Request) => window.fetch(request);

/** newKey makes a key; randomUUID is there under https and on this machine alone. */
export function newKey(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b.toString(16).padStart(2, "0")).join("");
}
