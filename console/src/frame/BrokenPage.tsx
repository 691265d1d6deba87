// What stands in the place of a page that went wrong, or whose scripts could not be loaded:
// the frame stays, and so does what was typed elsewhere.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "antd";
import { AwayPage } from "./AwayPage";

export function BrokenPage({ error }: { error: unknown }) {
  const says = error instanceof Error ? error.message : String(error);
  if (/import|fetch|load/i.test(says)) return <AwayPage />; // its scripts did not come
  return (
    <div className="page" role="alert">
      <h1>
        <Trans>Something went wrong on this page</Trans>
      </h1>
      <p>
        <Trans>Nothing was lost: what you saved is saved. Reload the page, or go elsewhere.</Trans>
      </p>
      <p>
        <Button type="primary" onClick={() => window.location.reload()}>
          {t`Reload`}
        </Button>
      </p>
      <details>
        <summary className="quiet">
          <Trans>What the browser said</Trans>
        </summary>
        <pre>{says}</pre>
      </details>
    </div>
  );
}
