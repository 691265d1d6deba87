// When something would run by itself next.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { whenThere } from "../parts/time";

export function NextTimes({ times, zone }: { times: string[] | undefined; zone: string }) {
  if (!times || times.length === 0) return null;
  return (
    <>
      <h2>
        <Trans>Runs next</Trans>
      </h2>
      <ul className="plain" aria-label={t`Runs next`}>
        {times.map((one) => (
          <li key={one}>{whenThere(one, zone)}</li>
        ))}
      </ul>
    </>
  );
}
