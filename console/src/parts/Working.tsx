// Says that work goes on, for how long it has, and lets one stop it.
import { Trans } from "@lingui/react/macro";
import { Button } from "antd";
import { useEffect, useState } from "react";
import type { WorkingState } from "./useWorking";

const soon = 700; // milliseconds of work before it is said

export function Working({ working, says }: { working: WorkingState; says: string }) {
  const [now, setNow] = useState(0);
  const { since } = working;
  useEffect(() => {
    if (since === undefined) return;
    const timer = window.setInterval(() => setNow(Date.now()), 250);
    return () => window.clearInterval(timer);
  }, [since]);
  if (since === undefined || now - since < soon) return null;
  return (
    <p role="status" className="working">
      <Trans>
        {says}… {Math.round((now - since) / 1000)} s{" "}
        <Button size="small" onClick={working.stop}>
          Stop
        </Button>
      </Trans>
    </p>
  );
}
