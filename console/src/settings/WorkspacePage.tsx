// What the whole workspace shares: addresses that lists may reach, secrets by which they
// sign in, a copy of everything.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Popconfirm } from "antd";
import { useState } from "react";
import { api, ask, problemOf } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { NewTrackerButton } from "../start/Greeting";
import { MailServer } from "./MailServer";
import { TrackersOrder } from "./TrackersOrder";
import "../automation/automation.css";

export default function WorkspacePage() {
  const may = useMay();
  if (!may.keep) {
    return (
      <div className="page">
        <h1>
          <Trans>Workspace</Trans>
        </h1>
        <p className="quiet">
          <Trans>An admin can change these.</Trans>
        </p>
      </div>
    );
  }
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Workspace</Trans>
        </h1>
        <span style={{ flex: 1 }} />
        <NewTrackerButton />
      </header>
      <TrackersOrder />
      <MailServer />
      <Reach />
      <Secrets />
      <section className="section" aria-label={t`Backup`}>
        <h2>
          <Trans>Backup</Trans>
        </h2>
        <p className="quiet">
          <Trans>A copy of the workspace as it is now, with all rows, history and files in cells.</Trans>
        </p>
        <Button href="/api/v1/backup">{t`Download a backup`}</Button>
      </section>
    </div>
  );
}

// useNames keeps a list of names that the service answers each change with.
function useNames(key: string, fetch: () => Promise<string[]>) {
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const names = useQuery({ queryKey: [key], queryFn: fetch });
  const change = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    onSettled: () => void queries.invalidateQueries({ queryKey: [key] }),
    onError: (err) =>
      notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 }),
  });
  return { names, change };
}

function Reach() {
  const { names, change } = useNames("reach", () => ask(api.GET("/api/v1/access/reach")));
  const [address, setAddress] = useState("");
  return (
    <section className="section" aria-label={t`Allowed addresses`}>
      <h2>
        <Trans>Addresses that lists may reach</Trans>
      </h2>
      <p className="quiet">
        <Trans>Public addresses, unless others are named here: a host’s name, a number, or a range of numbers.</Trans>
      </p>
      {names.isError && <ProblemNote error={names.error} />}
      <ul className="plain">
        {names.data?.map((a) => (
          <li key={a} className="tab-line inline-fields">
            <code>{a}</code>
            <Button
              size="small"
              type="text"
              danger
              aria-label={t`Remove address ${a}`}
              onClick={() =>
                change.mutate(() => ask(api.DELETE("/api/v1/access/reach", { params: { query: { address: a } } })))
              }
            >
              {t`Remove`}
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="inline-fields"
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate(
            () => ask(api.PUT("/api/v1/access/reach", { params: { query: { address: address.trim() } } })),
            {
              onSuccess: () => setAddress(""),
            },
          );
        }}
      >
        <Input
          aria-label={t`Address to allow`}
          placeholder={t`10.0.0.7 or lists.example.org`}
          value={address}
          onChange={(e) => setAddress(e.target.value)}
          style={{ width: 260 }}
        />
        <Button htmlType="submit" disabled={address.trim() === ""} loading={change.isPending}>
          {t`Allow address`}
        </Button>
      </form>
    </section>
  );
}

function Secrets() {
  const { names, change } = useNames("secrets", () => ask(api.GET("/api/v1/access/secrets")));
  const [name, setName] = useState("");
  const [secret, setSecret] = useState("");
  const fits = /^[A-Za-z_][A-Za-z0-9_]*$/.test(name);
  return (
    <section className="section" aria-label={t`Secrets`}>
      <h2>
        <Trans>Secrets</Trans>
      </h2>
      <p className="quiet">
        <Trans>Tokens and passwords by which lists sign in. They are never shown again; lists name them as</Trans>{" "}
        <code>{"${NAME}"}</code>.
      </p>
      {names.isError && <ProblemNote error={names.error} />}
      <ul className="plain">
        {names.data?.map((n) => (
          <li key={n} className="tab-line inline-fields">
            <code>{n}</code>
            <Popconfirm
              title={t`Delete secret ${n}? Lists that use it can no longer sign in.`}
              okText={t`Delete secret`}
              onConfirm={() =>
                change.mutate(() => ask(api.DELETE("/api/v1/access/secrets/{name}", { params: { path: { name: n } } })))
              }
            >
              <Button size="small" type="text" danger aria-label={t`Delete secret ${n}`}>
                {t`Delete`}
              </Button>
            </Popconfirm>
          </li>
        ))}
      </ul>
      <form
        className="inline-fields"
        onSubmit={(e) => {
          e.preventDefault();
          const body = { value: secret };
          change.mutate(() => ask(api.PUT("/api/v1/access/secrets/{name}", { params: { path: { name } }, body })), {
            onSuccess: () => {
              setName("");
              setSecret("");
            },
          });
        }}
      >
        <Input
          aria-label={t`Name of the secret`}
          placeholder={t`REGISTER_TOKEN`}
          value={name}
          status={name !== "" && !fits ? "error" : undefined}
          onChange={(e) => setName(e.target.value)}
          style={{ width: 200 }}
        />
        <Input.Password
          aria-label={t`Secret`}
          placeholder={t`The token or password`}
          value={secret}
          autoComplete="new-password"
          onChange={(e) => setSecret(e.target.value)}
          style={{ width: 240 }}
        />
        <Button htmlType="submit" disabled={!fits || secret === ""} loading={change.isPending}>
          {names.data?.includes(name) ? t`Replace secret` : t`Save secret`}
        </Button>
        {name !== "" && !fits && (
          <span className="late">
            <Trans>Letters, digits and underscores only.</Trans>
          </span>
        )}
      </form>
    </section>
  );
}
