// When something would run by itself next.
import { whenThere } from "../parts/time";

export function NextTimes({ times, zone }: { times: string[] | undefined; zone: string }) {
  if (!times || times.length === 0) return null;
  return (
    <>
      <h2>Runs next</h2>
      <ul className="plain" aria-label="Runs next">
        {times.map((t) => (
          <li key={t}>{whenThere(t, zone)}</li>
        ))}
      </ul>
    </>
  );
}
