// Beside a rule that is edited: the rows that it matches, what it would change, what it
// would start.
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
  const t = trial.data;
  if (!t) return null;
  const rows = preview.data?.changes.filter((c) => c.kind !== "reshape") ?? [];
  return (
    <>
      <Matches tracker={tracker} tried={t} />
      {t.matched !== undefined && (
        <Button
          onClick={() => {
            setShown(true);
            preview.mutate();
          }}
        >
          Preview the changes
        </Button>
      )}
      {t.starts && t.starts.length > 0 && <p className="quiet">May start: {t.starts.join(", ")}.</p>}
      {t.loops?.map((l) => (
        <p key={l} className="soon" role="alert">
          These rules form a loop: {l}. If it turns, nothing is saved.
        </p>
      ))}
      <Modal open={shown} title="What it would change now" width={900} footer={null} onCancel={() => setShown(false)}>
        {preview.isPending && <p className="quiet">Working it out…</p>}
        {preview.isError && <ProblemNote error={preview.error} />}
        {preview.data && rows.length === 0 && <p>No changes needed.</p>}
        {preview.data && rows.length > 0 && <Changes changes={rows} more={preview.data.more} />}
        {preview.data && <p className="quiet">Preview only. No changes made.</p>}
      </Modal>
    </>
  );
}
