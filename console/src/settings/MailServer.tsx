// The server by which emails go, and a test email.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Popconfirm, Select } from "antd";
import { useMemo } from "react";
import { api, ask, type MailServerFound, type MailServerSet } from "../api/client";
import { Overtaken } from "../parts/Overtaken";
import { ProblemNote } from "../parts/ProblemNote";
import { useFields } from "../parts/useFields";

const encryptions: { value: NonNullable<MailServerSet["encryption"]>; label: string }[] = [
  { value: "when offered", label: t`encrypted when offered` },
  { value: "always", label: t`always encrypted (STARTTLS)` },
  { value: "tls", label: t`encrypted from the first byte (TLS)` },
  { value: "never", label: t`not encrypted` },
];

export function MailServer() {
  const found = useQuery({ queryKey: ["mail server"], queryFn: () => ask(api.GET("/api/v1/outbox/server")) });
  const test = useMutation({ mutationFn: () => ask(api.POST("/api/v1/outbox/test")) });
  return (
    <section className="section" aria-label={t`Email`}>
      <h2>
        <Trans>Email</Trans>
      </h2>
      {found.isError && <ProblemNote error={found.error} />}
      {found.data?.at_start && (
        <p className="quiet">
          <Trans>
            Emails go by <code>{found.data.address}</code>, which was set where the service was started (
            <code>--smtp</code>) and can only be changed there.
          </Trans>
        </p>
      )}
      {found.data && !found.data.at_start && <Server found={found.data} />}
      <p className="quiet">
        <Trans>Subjects and texts stand in each round.</Trans>
      </p>
      <Button loading={test.isPending} onClick={() => test.mutate()}>
        {t`Send me a test email`}
      </Button>
      {test.data && (
        <p role="status">
          <Trans>Sent a test email to {test.data.to}.</Trans>
        </p>
      )}
      {test.isError && <ProblemNote error={test.error} />}
    </section>
  );
}

function Server({ found }: { found: MailServerFound }) {
  const saved = useMemo<MailServerSet>(() => ({ ...found, encryption: found.encryption ?? "when offered" }), [found]);
  const { fields: to, put, overtaken, restart } = useFields(saved);
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: (work: () => Promise<MailServerFound>) => work(),
    onSuccess: (now) => {
      queries.setQueryData(["mail server"], now);
      restart();
    },
  });
  const named: Partial<Record<keyof MailServerSet, string>> = {
    address: t`Mail server`,
    encryption: t`Connection`,
    user: t`Account`,
    from: t`Sender`,
  };
  const elsewhere = to.address !== found.address || (to.user ?? "") !== (found.user ?? "");
  const passwordNeeded = Boolean(to.user) && elsewhere && to.password === undefined;
  return (
    <>
      {found.address === "" && (
        <p className="soon">
          <Trans>No mail server is set. Emails wait in the outbox.</Trans>
        </p>
      )}
      <div className="settings-fields">
        <label htmlFor="mail-address">
          <Trans>Mail server</Trans>
        </label>
        <Input
          id="mail-address"
          placeholder={t`mail.example.org:587`}
          value={to.address}
          onChange={(e) => put({ address: e.target.value.trim() })}
          style={{ width: 260 }}
        />
        <label htmlFor="mail-encryption">
          <Trans>Connection</Trans>
        </label>
        <Select
          id="mail-encryption"
          aria-label={t`Connection`}
          value={to.encryption}
          options={encryptions}
          onChange={(encryption) => put({ encryption })}
          style={{ width: 260 }}
        />
        <label htmlFor="mail-user">
          <Trans>Account</Trans>
        </label>
        <Input
          id="mail-user"
          placeholder={t`none`}
          autoComplete="off"
          value={to.user ?? ""}
          onChange={(e) => put({ user: e.target.value.trim() })}
          style={{ width: 260 }}
        />
        {to.user && (
          <>
            <label htmlFor="mail-password">
              <Trans>Password</Trans>
            </label>
            <Input.Password
              id="mail-password"
              autoComplete="new-password"
              placeholder={elsewhere ? "" : t`as saved`}
              value={to.password ?? ""}
              onChange={(e) => put({ password: e.target.value || undefined })}
              style={{ width: 260 }}
            />
          </>
        )}
        <label htmlFor="mail-from">
          <Trans>Sender</Trans>
        </label>
        <Input
          id="mail-from"
          placeholder={t`Loans <loans@example.org>`}
          value={to.from ?? ""}
          onChange={(e) => put({ from: e.target.value })}
          style={{ width: 260 }}
        />
      </div>
      <Overtaken fields={overtaken.map((k) => ({ called: named[k] ?? k, now: saved[k] ?? "" }))} />
      <div className="inline-fields">
        <Button
          type="primary"
          disabled={to.address === "" || passwordNeeded}
          loading={save.isPending}
          onClick={() => save.mutate(() => ask(api.PUT("/api/v1/outbox/server", { body: to })))}
        >
          {t`Save mail server`}
        </Button>
        {found.address !== "" && (
          <Popconfirm
            title={t`Forget this mail server? Emails then wait in the outbox.`}
            okText={t`Forget mail server`}
            onConfirm={() => save.mutate(() => ask(api.DELETE("/api/v1/outbox/server")))}
          >
            <Button danger>{t`Forget mail server`}</Button>
          </Popconfirm>
        )}
        {passwordNeeded && found.address !== "" && (
          <span className="soon">
            <Trans>Type the password again: the server or its account is another one.</Trans>
          </span>
        )}
      </div>
      {save.isError && <ProblemNote error={save.error} />}
    </>
  );
}
