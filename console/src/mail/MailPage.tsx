// The mail that rounds made: what went out, what waits, and in the demo what
// the stand-in post office took in, as it arrived.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Segmented } from "antd";
import { useState } from "react";
import { api, ask, problemOf } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { when } from "../parts/time";
import { Sheet } from "./Sheet";
import "./mail.css";

type Item = {
  id: string;
  to: string;
  subject: string;
  at: string;
  state: string;
  problem?: string;
  text?: string;
  html?: string;
  raw?: string;
};

const often = 3_000; // milliseconds; mail arrives by itself

export default function MailPage() {
  const may = useMay();
  const arrived = useQuery({
    queryKey: ["arrived"],
    queryFn: () => ask(api.GET("/api/v1/arrived")),
    refetchInterval: often,
  });
  const outbox = useQuery({
    queryKey: ["outbox"],
    queryFn: () => ask(api.GET("/api/v1/outbox")),
    refetchInterval: often,
  });
  const [which, setWhich] = useState<"Arrived" | "Outbox">("Arrived");
  const [chosen, setChosen] = useState<string>();
  const took = (arrived.data ?? []).map((m): Item => ({
    id: m.id + m.to.join(),
    to: m.to.join(", "),
    subject: m.subject,
    at: m.date,
    state: "arrived",
    text: m.text,
    html: m.html,
    raw: m.raw,
  }));
  const made = (outbox.data ?? []).map((m): Item => ({
    id: m.id,
    to: m.to,
    subject: m.subject,
    at: m.made,
    state: m.state,
    problem: m.problem,
    text: m.text,
    html: m.html,
  }));
  const items = which === "Arrived" ? took : made;
  const open = items.find((i) => i.id === chosen) ?? items[0];
  return (
    <div className="page mail">
      <header>
        <h1>
          <Trans>Mail</Trans>
        </h1>
        <Segmented<"Arrived" | "Outbox">
          options={[
            { value: "Arrived", label: t`Arrived` },
            { value: "Outbox", label: t`Outbox` },
          ]}
          value={which}
          onChange={setWhich}
        />
        <span className="quiet">
          {which === "Arrived" ? t`as the stand-in post office took it in` : t`as Kavlo made it, and what became of it`}
        </span>
      </header>
      {arrived.isError && which === "Arrived" && <ProblemNote error={arrived.error} />}
      {outbox.isError && which === "Outbox" && <ProblemNote error={outbox.error} />}
      {items.length === 0 && (
        <p className="quiet">
          <Trans>
            {which === "Arrived" ? t`Nothing has arrived yet. ` : t`No emails yet. `}A round sends one email a person,
            when it has something to say.
          </Trans>
        </p>
      )}
      {open && (
        <div className="mail-split">
          <ul className="plain mail-list">
            {items.map((i) => (
              <li key={i.id}>
                <button
                  type="button"
                  className={i === open ? "mail-item chosen" : "mail-item"}
                  aria-pressed={i === open}
                  onClick={() => setChosen(i.id)}
                >
                  <span className="mail-subject">{i.subject}</span>
                  <span>{i.to}</span>
                  <span className={i.state === "given up" ? "late" : i.state === "waiting" ? "soon" : "quiet"}>
                    {i.state}, {when(i.at)}
                  </span>
                </button>
              </li>
            ))}
          </ul>
          <section aria-label={open.subject} className="mail-open">
            {open.problem && <p className="soon">{open.problem}</p>}
            {may.edit && which === "Outbox" && open.state !== "waiting" && <Resend id={open.id} />}
            <Sheet key={open.id} html={open.html} text={open.text} raw={open.raw} />
          </section>
        </div>
      )}
    </div>
  );
}

function Resend({ id }: { id: string }) {
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const resend = useMutation({
    mutationFn: () => ask(api.POST("/api/v1/outbox/{mail}/resend", { params: { path: { mail: id } } })),
    onSuccess: (m) => {
      notification.success({
        title: t`On its way once more`,
        description: t`Whoever has it already gets the same mail again, at ${m.to}.`,
      });
      void queries.invalidateQueries({ queryKey: ["outbox"] });
    },
    onError: (err) =>
      notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 }),
  });
  return (
    <Button size="small" loading={resend.isPending} onClick={() => resend.mutate()} style={{ marginBottom: 8 }}>
      {t`Resend`}
    </Button>
  );
}
