// Beside a reminder or a round that is edited: the email that each person would get now.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { useState } from "react";
import { api, ask } from "../api/client";
import type { Beside } from "../automation/DefinitionEditor";
import { Sheet } from "../mail/Sheet";
import { ProblemNote } from "../parts/ProblemNote";
import "../mail/mail.css";

type Props = Beside & { tracker: string; kind: "reminder" | "round" };

export function Emails({ tracker, kind, body, replaces, trial }: Props) {
  const [whose, setWhose] = useState<string>();
  const emails = useQuery({
    queryKey: ["emails", kind, tracker, replaces, body],
    queryFn: () => {
      const params = { params: { path: { tracker } }, body: { body, replaces } };
      return ask(
        kind === "round"
          ? api.POST("/api/v1/trackers/{tracker}/try/round/emails", params)
          : api.POST("/api/v1/trackers/{tracker}/try/reminder/emails", params),
      );
    },
    enabled: trial.data !== undefined && !trial.isFetching,
    placeholderData: (before) => before,
  });
  const all = emails.data?.emails ?? [];
  const open = all.find((e) => e.to === whose) ?? all[0];
  return (
    <section aria-label={t`Emails`} className="emails" aria-busy={emails.isFetching}>
      {emails.isError && <ProblemNote error={emails.error} />}
      {emails.data && all.length === 0 && (
        <p className="quiet">
          <Trans>No emails to send now.</Trans>
        </p>
      )}
      {open && (
        <>
          <h2>
            <Trans>
              Would send {plural(all.length + (emails.data?.more ?? 0), { one: "# email", other: "# emails" })} now
            </Trans>
          </h2>
          <Select
            aria-label={t`Email for`}
            value={open.to}
            options={all.map((e) => ({
              value: e.to,
              label: `${e.name ?? e.to}, ${plural(e.count, { one: "# row", other: "# rows" })}`,
            }))}
            onChange={setWhose}
            style={{ width: "100%", marginBottom: 8 }}
          />
          <p>
            <strong>{open.subject}</strong>
          </p>
          <Sheet key={open.to} html={open.html} text={open.text} />
        </>
      )}
    </section>
  );
}
