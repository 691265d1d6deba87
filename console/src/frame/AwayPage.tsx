// What stands in the place of a page that could not be loaded: it tries again by
// itself until the service answers.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "antd";
import { useEffect } from "react";

const rest = 2_000; // milliseconds between tries

export function AwayPage() {
  useEffect(() => {
    const timer = window.setInterval(() => {
      fetch("/healthz", { cache: "no-store" })
        .then((answer) => {
          if (answer.ok) window.location.reload();
        })
        .catch(() => undefined); // still away
    }, rest);
    return () => window.clearInterval(timer);
  }, []);
  return (
    <div className="page" role="alert">
      <h1>
        <Trans>This page could not be loaded</Trans>
      </h1>
      <p>
        <Trans>The service does not answer. The page comes by itself once it does.</Trans>
      </p>
      <Button onClick={() => window.location.reload()}>{t`Try now`}</Button>
    </div>
  );
}
