// Beside a rule that is edited: the rows that it matches, what it would change, what it
// would start.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { useState } from "react";
import { api, ask } from "../api/client";
import type { Beside } from "../automation/DefinitionEditor";
import { Matches } from "../automation/Matches";
import { Changes } from "../parts/Changes";
import { ProblemNote } from "../parts/ProblemNote";

export function RuleMatches({ tracker, body, replaces, trial }: Beside & { tracker: string }) {
  const [shown, setShown] = useState(false);
  const preview = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/v1/trackers/{tracker}/try/rule/preview", {
          params: { path: { tracker } },
          body: { body, replaces },
        }),
      ),
  });
  const one = trial.data;
  if (!one) return null;
  const rows = preview.data?.changes.filter((c) => c.kind !== "reshape") ?? [];
  return (
    <>
      <Matches tracker={tracker} tried={one} />
      {one.matched !== undefined && (
        <Button
          onClick={() => {
            setShown(true);
            preview.mutate();
          }}
        >
          {t`Preview the changes`}
        </Button>
      )}
      {one.starts && one.starts.length > 0 && (
        <p className="quiet">
          <Trans>May start: {one.starts.join(", ")}.</Trans>
        </p>
      )}
      {one.loops?.map((l) => (
        <p key={l} className="soon" role="alert">
          <Trans>These rules form a loop: {l}. If it turns, nothing is saved.</Trans>
        </p>
      ))}
      <Modal
        open={shown}
        title={t`What it would change now`}
        width={900}
        footer={null}
        onCancel={() => setShown(false)}
      >
        {preview.isPending && (
          <p className="quiet">
            <Trans>Working it out…</Trans>
          </p>
        )}
        {preview.isError && <ProblemNote error={preview.error} />}
        {preview.data && rows.length === 0 && (
          <p>
            <Trans>No changes needed.</Trans>
          </p>
        )}
        {preview.data && rows.length > 0 && <Changes changes={rows} more={preview.data.more} />}
        {preview.data && (
          <p className="quiet">
            <Trans>Preview only. No changes made.</Trans>
          </p>
        )}
      </Modal>
    </>
  );
}
