// Where somebody was when their session ended, so that signing in leads back there.

type CameFrom = { person: number; path: string };

const key = "kavlo came from";

export function cameFrom(from: CameFrom) {
  sessionStorage.setItem(key, JSON.stringify(from));
}

/** goBackTo gives, once, the page where a person was who signs in again; nobody else goes there. */
export function goBackTo(person: number): string {
  const kept = sessionStorage.getItem(key);
  sessionStorage.removeItem(key);
  const from = kept === null ? undefined : (JSON.parse(kept) as CameFrom);
  return from?.person === person ? from.path : "/";
}
