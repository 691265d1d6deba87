// Who may use the workspace: their roles, and one-time links by which they sign in.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Popconfirm, Select, Table, Typography } from "antd";
import { useState } from "react";
import { api, ask, problemOf, type Person } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { usePeople, useSession } from "../parts/queries";
import { useNarrow } from "../parts/useMedia";
import { AccessDialog } from "./AccessDialog";
import { PersonName } from "./PersonName";
import "../automation/automation.css";

const roles: { value: Person["access"]; label: string }[] = [
  { value: "reader", label: t`Reader: sees rows` },
  { value: "editor", label: t`Editor: changes rows` },
  { value: "admin", label: t`Admin: sets everything up` },
];

export default function PeoplePage() {
  const people = usePeople();
  const session = useSession();
  const may = useMay();
  const queries = useQueryClient();
  const { notification, modal } = App.useApp();
  const failed = (err: unknown) =>
    notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 });
  const [shown, setShown] = useState<Person>();
  const again = () => void queries.invalidateQueries({ queryKey: ["people"] });
  // what is absent stays as it is
  const put = useMutation({
    mutationFn: (body: { name?: string; address: string; access?: Person["access"] }) =>
      ask(api.PUT("/api/v1/people", { body })),
    onSuccess: again,
    onError: failed,
  });
  const drop = useMutation({
    mutationFn: async (p: Person) => {
      const { error } = await api.DELETE("/api/v1/people/{person}", { params: { path: { person: p.address } } });
      if (error) throw new Error(problemOf(error).detail);
    },
    onSuccess: again,
    onError: failed,
  });
  const link = useMutation({
    mutationFn: (p: Person) =>
      ask(api.POST("/api/v1/people/{person}/link", { params: { path: { person: p.address } } })),
    onSuccess: (made, p) =>
      void modal.success({
        title: t`A sign-in link for ${p.name}`,
        okText: t`Close`,
        content: (
          <>
            <p>
              <Trans>It works once. Copy it now; it is not shown again.</Trans>
            </p>
            <Typography.Text copyable>{made.link ?? made.secret}</Typography.Text>
          </>
        ),
      }),
    onError: failed,
  });
  const isNarrow = useNarrow();
  const mine = session.data?.person.id;
  const role = (p: Person) =>
    may.keep && p.id !== mine ? (
      <Select
        aria-label={t`Role of ${p.name}`}
        value={p.access}
        options={roles}
        onChange={(access) => put.mutate({ address: p.address, access })}
        popupMatchSelectWidth={false}
      />
    ) : (
      roles.find((r) => r.value === p.access)?.label
    );
  const name = (p: Person) => {
    const rename = (name: string, onSuccess: () => void) => put.mutate({ name, address: p.address }, { onSuccess });
    return may.keep ? <PersonName name={p.name} onRename={rename} /> : p.name;
  };
  const acts = (p: Person) =>
    may.keep && (
      <span className="inline-fields">
        <Button size="small" aria-label={t`Sign-in link for ${p.name}`} onClick={() => link.mutate(p)}>
          {t`Sign-in link`}
        </Button>
        <Button size="small" aria-label={t`Tokens and calendar of ${p.name}`} onClick={() => setShown(p)}>
          {t`Tokens and calendar`}
        </Button>
        {p.id !== mine && (
          <Popconfirm
            title={t`Remove ${p.name}? They are signed out at once; what they did stays in the history.`}
            okText={t`Remove`}
            onConfirm={() => drop.mutate(p)}
          >
            <Button size="small" danger aria-label={t`Remove ${p.name}`}>
              {t`Remove`}
            </Button>
          </Popconfirm>
        )}
      </span>
    );
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>People</Trans>
        </h1>
        <span className="quiet">
          <Trans>who may sign in, and what they may do</Trans>
        </span>
      </header>
      {people.isError && <ProblemNote error={people.error} />}
      {may.keep && (
        <NewPerson
          people={people.data ?? []}
          onAdd={(p, onSuccess) => put.mutate(p, { onSuccess })}
          pending={put.isPending}
        />
      )}
      <Table<Person>
        rowKey="id"
        size="small"
        pagination={false}
        dataSource={people.data ?? []}
        locale={{ emptyText: t`No people yet. Add one above.` }}
        columns={
          isNarrow
            ? [
                {
                  title: t`Name`,
                  render: (_, p) => (
                    <>
                      <strong>{name(p)}</strong>
                      <div className="quiet">{p.address}</div>
                      <div className="person-acts">
                        {role(p)}
                        {acts(p)}
                      </div>
                    </>
                  ),
                },
              ]
            : [
                { title: t`Name`, render: (_, p) => name(p) },
                { title: t`Email address`, dataIndex: "address" },
                { title: t`Role`, render: (_, p) => role(p) },
                {
                  title: (
                    <span className="hidden-words">
                      <Trans>Actions</Trans>
                    </span>
                  ),
                  render: (_, p) => acts(p),
                },
              ]
        }
      />
      {shown && <AccessDialog person={shown} onClose={() => setShown(undefined)} />}
    </div>
  );
}

type NewPersonProps = {
  people: Person[]; // who is here already
  onAdd: (p: { name?: string; address: string; access: Person["access"] }, done: () => void) => void;
  pending: boolean;
};

function NewPerson({ people, onAdd, pending }: NewPersonProps) {
  const [name, setName] = useState("");
  const [address, setAddress] = useState("");
  const [access, setAccess] = useState<Person["access"]>("editor");
  const known = people.find((p) => p.address.toLowerCase() === address.trim().toLowerCase());
  return (
    <form
      className="inline-fields new-person"
      onSubmit={(e) => {
        e.preventDefault();
        onAdd({ name, address, access }, () => {
          setName("");
          setAddress("");
        });
      }}
    >
      <Input
        aria-label={t`Name`}
        placeholder={t`Name`}
        value={name}
        onChange={(e) => setName(e.target.value)}
        style={{ width: 180 }}
      />
      <Input
        aria-label={t`Email address`}
        placeholder={t`Email address`}
        type="email"
        value={address}
        onChange={(e) => setAddress(e.target.value)}
        style={{ width: 240 }}
      />
      <Select aria-label={t`Role`} value={access} options={roles} onChange={setAccess} popupMatchSelectWidth={false} />
      <Button
        htmlType="submit"
        type="primary"
        loading={pending}
        disabled={address.trim() === "" || known !== undefined}
      >
        {t`Add person`}
      </Button>
      {known && (
        <span className="soon">
          <Trans>{known.name} has this address. Change their role in the list.</Trans>
        </span>
      )}
    </form>
  );
}
