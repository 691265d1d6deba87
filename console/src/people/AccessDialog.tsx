// What lets a person in: tokens for scripts, calendar addresses, sessions; made and revoked.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, InputNumber, Modal, Popconfirm, Table, Typography } from "antd";
import { useState } from "react";
import { api, ask, problemOf, type Person, type Token } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { when } from "../parts/time";

const kinds: Record<Token["kind"], { title: string; ask: string; revoke: (name: string) => string }> = {
  token: {
    title: t`Access token`,
    ask: t`Revoke this access token? It stops working at once.`,
    revoke: (name) => t`Revoke access token ${name}`,
  },
  session: {
    title: t`Signed in`,
    ask: t`Sign this person out there? They have to sign in again.`,
    revoke: (name) => t`Sign out ${name}`,
  },
  link: {
    title: t`Sign-in link`,
    ask: t`Revoke this sign-in link? It stops working at once.`,
    revoke: (name) => t`Revoke sign-in link ${name}`,
  },
  calendar: {
    title: t`Calendar address`,
    ask: t`Revoke this calendar address? It stops working at once.`,
    revoke: (name) => t`Revoke calendar address ${name}`,
  },
};

export function AccessDialog({ person, onClose }: { person: Person; onClose: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [days, setDays] = useState<number | null>(90);
  const path = { person: person.address };
  const key = ["access", person.address];
  const all = useQuery({
    queryKey: key,
    queryFn: () => ask(api.GET("/api/v1/people/{person}/access", { params: { path } })),
  });
  const settled = { onSettled: () => void queries.invalidateQueries({ queryKey: key }) };
  const token = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/v1/people/{person}/token", { params: { path, query: { name, days: days ?? 0 } } })),
    ...settled,
  });
  const feed = useMutation({
    mutationFn: () => ask(api.POST("/api/v1/people/{person}/feed", { params: { path } })),
    ...settled,
  });
  const revoke = useMutation({
    mutationFn: async (id: string) => {
      const { error } = await api.DELETE("/api/v1/people/{person}/access/{token}", {
        params: { path: { ...path, token: id } },
      });
      if (error) throw new Error(problemOf(error).detail);
    },
    ...settled,
  });
  const failed = all.error ?? token.error ?? feed.error ?? revoke.error;
  return (
    <Modal open title={t`Access of ${person.name}`} width={760} footer={null} onCancel={onClose}>
      {failed && <ProblemNote error={failed} />}
      <section aria-label={t`Calendar`}>
        <h3>
          <Trans>Calendar of due dates</Trans>
        </h3>
        <p className="quiet">
          <Trans>
            A private address that calendar programs subscribe to. Whoever has it sees this person’s due rows.
          </Trans>
        </p>
        <Button loading={feed.isPending} onClick={() => feed.mutate()}>
          {t`New calendar address`}
        </Button>
        {feed.data?.link && <Made text={feed.data.link} />}
      </section>
      <section aria-label={t`New access token`}>
        <h3>
          <Trans>Access token for scripts</Trans>
        </h3>
        <form
          className="inline-fields"
          onSubmit={(e) => {
            e.preventDefault();
            token.mutate();
          }}
        >
          <Trans>
            <Input
              aria-label={t`What the token is for`}
              placeholder={t`What it is for`}
              value={name}
              onChange={(e) => setName(e.target.value)}
              style={{ width: 220 }}
            />
            lasts
            <InputNumber
              aria-label={t`Days that it lasts`}
              min={1}
              max={3650}
              placeholder={t`ever`}
              value={days}
              onChange={setDays}
              style={{ width: 80 }}
            />
            days
            <Button htmlType="submit" disabled={name.trim() === ""} loading={token.isPending}>
              New token
            </Button>
          </Trans>
        </form>
        {token.data?.secret && <Made text={token.data.secret} />}
      </section>
      <h3>
        <Trans>In use</Trans>
      </h3>
      <Table<Token>
        size="small"
        rowKey="id"
        pagination={false}
        scroll={{ y: 260 }}
        dataSource={all.data ?? []}
        locale={{ emptyText: t`Nothing lets this person in now.` }}
        columns={[
          { title: t`Kind`, render: (_, one) => kinds[one.kind].title },
          { title: t`For`, dataIndex: "name" },
          { title: t`Made`, render: (_, one) => when(one.made) },
          { title: t`Last used`, render: (_, one) => (one.used ? when(one.used) : t`never`) },
          { title: t`Expires`, render: (_, one) => (one.expires ? when(one.expires) : t`never`) },
          {
            title: (
              <span className="hidden-words">
                <Trans>Actions</Trans>
              </span>
            ),
            render: (_, one) => (
              <Popconfirm title={kinds[one.kind].ask} okText={t`Revoke`} onConfirm={() => revoke.mutate(one.id)}>
                <Button size="small" danger aria-label={kinds[one.kind].revoke(one.name)}>
                  {t`Revoke`}
                </Button>
              </Popconfirm>
            ),
          },
        ]}
      />
    </Modal>
  );
}

function Made({ text }: { text: string }) {
  return (
    <p>
      <Trans>
        Copy it now; it is not shown again. <Typography.Text copyable>{text}</Typography.Text>
      </Trans>
    </p>
  );
}
