// Asking again while others change things: soon after a change, and seldom enough while
// changes stream in. Many consoles hear of a change at the same moment, so each waits a
// little of its own before it asks.

const settle = 200; // milliseconds after a change
const apart = 1_000; // milliseconds between two askings, at least
const spread = 500; // milliseconds by which consoles differ

/**
 * paced gives what asks: now, or soon after something has happened; and what stops it. What
 * happens while an answer is awaited is asked about after it has come.
 */
export function paced(ask: () => Promise<unknown>) {
  let timer: number | undefined;
  let last = -Infinity;
  let asking = false;
  let again = false;
  let stopped = false;
  const soon = () => {
    const wait = Math.max(settle, apart - (performance.now() - last) + spread * Math.random());
    if (asking) again = true;
    else if (!stopped) timer ??= window.setTimeout(now, wait);
  };
  const now = () => {
    window.clearTimeout(timer);
    timer = undefined;
    last = performance.now();
    asking = true;
    void ask().finally(() => {
      asking = false;
      if (again) soon();
      again = false;
    });
  };
  const stop = () => {
    window.clearTimeout(timer);
    stopped = true;
  };
  return { now, soon, stop };
}
