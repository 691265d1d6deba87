// What the next rounds would send if they came now, readable before it goes.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Modal } from "antd";
import { useState } from "react";
import type { Letter, Today } from "../api/client";
import { Sheet } from "../mail/Sheet";
import { useWhen } from "../parts/queries";

export function NextRounds({ rounds }: { rounds: Today["rounds"] }) {
  const when = useWhen();
  const [open, setOpen] = useState<Letter>();
  return (
    <section className="section">
      <h2>
        <Trans>Next round</Trans>
      </h2>
      {rounds.length === 0 && (
        <p className="quiet">
          <Trans>No rounds yet. Create one under Reminders.</Trans>
        </p>
      )}
      {rounds.map((r) => (
        <div key={r.tracker_id + r.round}>
          <p className="round-head">
            <Trans>
              {r.round}, {when(r.next, r.tracker_id)}. Would send now{" "}
              {r.letters.length === 0
                ? t`to nobody`
                : plural(r.letters.length + r.more, { one: "# email", other: "# emails" })}
              :
            </Trans>
          </p>
          <ul className="plain">
            {r.letters.map((l) => (
              <li key={l.to} className="letter">
                <span>{l.name || l.to}</span>
                <span className="quiet">{l.subject}</span>
                <Button size="small" type="link" onClick={() => setOpen(l)}>
                  {t`Read`}
                </Button>
              </li>
            ))}
            {r.more > 0 && (
              <li className="quiet">
                <Trans>and {plural(r.more, { one: "# more email", other: "# more emails" })}</Trans>
              </li>
            )}
          </ul>
        </div>
      ))}
      <Modal
        open={open !== undefined}
        onCancel={() => setOpen(undefined)}
        footer={null}
        width={760}
        title={t`What ${open?.name || open?.to || ""} would get`}
      >
        {open && <Sheet html={open.html} text={open.text} />}
      </Modal>
    </section>
  );
}
