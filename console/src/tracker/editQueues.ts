// The edits that wait, of each tracker. They are one person's own: whoever signs in next neither
// sees nor sends them. Each page of the browser keeps its own, and takes over what pages that are
// closed have left behind.
import { api, ask } from "../api/client";
import { newKey, once } from "../api/patient";
import { EditQueue, readEdits, type Body } from "./editQueue";
import { storeOf } from "./stores";

const prefix = "kavlo unsaved";
const queues = new Map<string, EditQueue>(); // by tracker
let of: number | undefined; // whose they are

/** queueOf gives the edits of a person in a tracker. */
export function queueOf(person: number, tracker: string): EditQueue {
  if (of !== person) leave();
  of = person;
  const store = storeOf(tracker);
  let queue = queues.get(tracker);
  if (!queue) {
    queue = new EditQueue(store, sendTo(tracker), `${prefix} ${person} ${tracker} ${page()}`);
    queues.set(tracker, queue);
    adopt(queue, `${prefix} ${person} ${tracker} `);
  }
  queue.attach(store);
  return queue;
}

/** resume sends what a person who has signed in has left to send, in whatever tracker. */
export function resume(person: number) {
  for (const key of Object.keys(localStorage)) {
    const [tracker] = key.startsWith(`${prefix} ${person} `) ? key.split(" ").slice(3) : [];
    if (tracker) queueOf(person, tracker);
  }
}

/** leave sends nothing more of anybody's. */
export function leave() {
  for (const queue of queues.values()) queue.stop();
  queues.clear();
  of = undefined;
}

const sendTo = (tracker: string) => (edits: Body, key: string) =>
  ask(
    api.PATCH("/api/v1/trackers/{tracker}/rows", {
      params: { path: { tracker }, header: { "Idempotency-Key": key } },
      body: { edits },
      fetch: once, // the queue itself is patient
    }),
  );

// page gives this page's name, which stays over reloads. A lock of that name tells other pages
// that it is open.
function page(): string {
  const known = sessionStorage.getItem("kavlo page");
  const id = known ?? newKey();
  if (known === null) sessionStorage.setItem("kavlo page", id);
  if (!locked && "locks" in navigator) {
    locked = true;
    void navigator.locks.request(`kavlo page ${id}`, () => new Promise(() => undefined));
  }
  return id;
}

let locked = false;

// adopt takes over what pages have left that are closed. Where nothing tells whether they are, it
// stays with them.
function adopt(queue: EditQueue, left: string) {
  if (!("locks" in navigator)) return;
  for (const key of Object.keys(localStorage)) {
    const [other = ""] = key.startsWith(left) ? key.slice(left.length).split(" ") : [page()];
    if (other === page()) continue;
    void navigator.locks.request(`kavlo page ${other}`, { ifAvailable: true }, (free) => {
      if (!free) return;
      queue.take(readEdits(localStorage.getItem(key)));
      localStorage.removeItem(key);
    });
  }
}
