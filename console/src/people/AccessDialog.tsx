// What lets a person in: tokens for scripts, calendar addresses, sessions; made and revoked.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, InputNumber, Modal, Popconfirm, Table, Typography } from "antd";
import { useState } from "react";
import { api, ask, problemOf, type Person, type Token } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { when } from "../parts/time";

const kinds: Record<Token["kind"], string> = {
  token: "Access token",
  session: "Signed in",
  link: "Sign-in link",
  calendar: "Calendar address",
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
    <Modal open title={`Access of ${person.name}`} width={760} footer={null} onCancel={onClose}>
      {failed && <ProblemNote error={failed} />}
      <section aria-label="Calendar">
        <h3>Calendar of due dates</h3>
        <p className="quiet">
          A private address that calendar programs subscribe to. Whoever has it sees this person’s due rows.
        </p>
        <Button loading={feed.isPending} onClick={() => feed.mutate()}>
          New calendar address
        </Button>
        {feed.data?.link && <Made text={feed.data.link} />}
      </section>
      <section aria-label="New access token">
        <h3>Access token for scripts</h3>
        <form
          className="inline-fields"
          onSubmit={(e) => {
            e.preventDefault();
            token.mutate();
          }}
        >
          <Input
            aria-label="What the token is for"
            placeholder="What it is for"
            value={name}
            onChange={(e) => setName(e.target.value)}
            style={{ width: 220 }}
          />
          lasts
          <InputNumber
            aria-label="Days that it lasts"
            min={1}
            max={3650}
            placeholder="ever"
            value={days}
            onChange={setDays}
            style={{ width: 80 }}
          />
          days
          <Button htmlType="submit" disabled={name.trim() === ""} loading={token.isPending}>
            New token
          </Button>
        </form>
        {token.data?.secret && <Made text={token.data.secret} />}
      </section>
      <h3>In use</h3>
      <Table<Token>
        size="small"
        rowKey="id"
        pagination={false}
        scroll={{ y: 260 }}
        dataSource={all.data ?? []}
        locale={{ emptyText: "Nothing lets this person in now." }}
        columns={[
          { title: "Kind", render: (_, t) => kinds[t.kind] },
          { title: "For", dataIndex: "name" },
          { title: "Made", render: (_, t) => when(t.made) },
          { title: "Last used", render: (_, t) => (t.used ? when(t.used) : "never") },
          { title: "Expires", render: (_, t) => (t.expires ? when(t.expires) : "never") },
          {
            title: <span className="hidden-words">Actions</span>,
            render: (_, t) => (
              <Popconfirm
                title={`Revoke this ${kinds[t.kind].toLowerCase()}? It stops working at once.`}
                okText="Revoke"
                onConfirm={() => revoke.mutate(t.id)}
              >
                <Button size="small" danger aria-label={`Revoke ${kinds[t.kind].toLowerCase()} ${t.name}`}>
                  Revoke
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
      Copy it now; it is not shown again. <Typography.Text copyable>{text}</Typography.Text>
    </p>
  );
}
