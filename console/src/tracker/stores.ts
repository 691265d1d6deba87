// The rows of trackers between visits: what one has looked at stays, and follows what others
// do, so that coming back fetches nothing.
import { listen } from "../api/live";
import { RowStore } from "./rowStore";

const kept = new Map<string, RowStore>(); // by tracker, the one used last at the end
const most = 3; // trackers
let unfollow: (() => void) | undefined;

/** storeOf gives the rows of a tracker. */
export function storeOf(tracker: string): RowStore {
  const store = kept.get(tracker) ?? new RowStore();
  kept.delete(tracker);
  kept.set(tracker, store);
  for (const old of kept.keys()) {
    if (kept.size <= most) break;
    kept.delete(old);
  }
  unfollow ??= listen((e) => {
    for (const id of e.trackers) {
      if (e.reload) kept.get(id)?.doubt();
      else kept.get(id)?.apply(e);
    }
  });
  return store;
}

/** forget leaves nothing of anybody's rows behind. */
export function forget() {
  kept.clear();
  unfollow?.();
  unfollow = undefined;
}
