// An empty workspace: the ways to begin.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Modal, Select } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { Beginnings } from "../automation/Beginnings";
import { ProblemNote } from "../parts/ProblemNote";
import { useTrackers } from "../parts/queries";
import "../automation/automation.css";

export function Greeting({ keep }: { keep: boolean }) {
  const navigate = useNavigate();
  const [blank, setBlank] = useState(false);
  if (!keep) {
    return (
      <p className="quiet">
        <Trans>There are no trackers yet. An admin can import a workbook or create one.</Trans>
      </p>
    );
  }
  return (
    <>
      <Beginnings
        title={t`There are no trackers yet. How do you want to begin?`}
        from={[
          {
            id: "import",
            title: t`Import a file`,
            says: t`A workbook or CSV file: its tables become tabs, whatever they look like.`,
          },
          { id: "blank", title: t`Start blank`, says: t`A tracker with one tab, to which you add columns.` },
        ]}
        onChoose={(id) => (id === "import" ? void navigate("/import") : setBlank(true))}
      />
      <p className="quiet">
        <Trans>
          To look around first, <code>kavlo demo</code> starts a workspace with made-up loans.
        </Trans>
      </p>
      {blank && <NewTracker onClose={() => setBlank(false)} />}
    </>
  );
}

/** NewTracker creates a tracker with one tab, or with the tabs of another. */
export function NewTracker({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState("");
  const [tab, setTab] = useState(t`Rows`);
  const [like, setLike] = useState<string>();
  const others = useTrackers().data ?? [];
  const queries = useQueryClient();
  const navigate = useNavigate();
  const make = useMutation({
    mutationFn: async () => {
      const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
      await ask(api.POST("/api/v1/trackers", { body: like === undefined ? { name, zone } : { name, like } }));
      const all = await ask(api.GET("/api/v1/trackers"));
      const made = all.find((one) => one.name === name.trim());
      if (made && like === undefined) {
        const path = { tracker: made.id };
        await ask(api.POST("/api/v1/trackers/{tracker}/tabs", { params: { path }, body: { name: tab } }));
      }
      return made;
    },
    onSuccess: async (made) => {
      await queries.invalidateQueries();
      onClose();
      if (made) void navigate(`/t/${made.id}/settings`);
    },
  });
  return (
    <Modal
      open
      title={t`New tracker`}
      okText={t`Create`}
      okButtonProps={{
        disabled: name.trim() === "" || (like === undefined && tab.trim() === ""),
        loading: make.isPending,
      }}
      onOk={() => make.mutate()}
      onCancel={onClose}
    >
      <label className="field">
        <Trans>
          Name
          <Input value={name} onChange={(e) => setName(e.target.value)} autoFocus />
        </Trans>
      </label>
      {others.length > 0 && (
        <label className="field">
          <Trans>With the tabs and columns of</Trans>
          <Select
            aria-label={t`With the tabs and columns of`}
            allowClear
            placeholder={t`no other tracker`}
            value={like}
            options={others.map((one) => ({ value: one.id, label: one.name }))}
            onChange={(id?: string) => setLike(id)}
            style={{ width: "100%" }}
          />
        </label>
      )}
      {like === undefined ? (
        <label className="field">
          <Trans>
            First tab
            <Input value={tab} onChange={(e) => setTab(e.target.value)} />
          </Trans>
        </label>
      ) : (
        <p className="quiet">
          <Trans>Its rows, rules, reminders and lists are not copied.</Trans>
        </p>
      )}
      {make.isError && <ProblemNote error={make.error} />}
    </Modal>
  );
}

/** A button that opens it. */
export function NewTrackerButton() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>{t`New tracker`}</Button>
      {open && <NewTracker onClose={() => setOpen(false)} />}
    </>
  );
}
