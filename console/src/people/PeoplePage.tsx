// Who may use the workspace: their roles, and one-time links by which they sign in.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Popconfirm, Select, Table, Typography } from "antd";
import { useState } from "react";
import { api, ask, problemOf, type Person } from "../api/client";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { usePeople, useSession } from "../parts/queries";
import { AccessDialog } from "./AccessDialog";
import "../automation/automation.css";

const roles: { value: Person["access"]; label: string }[] = [
  { value: "reader", label: "Reader: sees rows" },
  { value: "editor", label: "Editor: changes rows" },
  { value: "admin", label: "Admin: sets everything up" },
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
  const put = useMutation({
    mutationFn: (body: { name?: string; address: string; access: Person["access"] }) =>
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
        title: `A sign-in link for ${p.name}`,
        okText: "Close",
        content: (
          <>
            <p>It works once. Copy it now; it is not shown again.</p>
            <Typography.Text copyable>{made.link ?? made.secret}</Typography.Text>
          </>
        ),
      }),
    onError: failed,
  });
  return (
    <div className="page">
      <header>
        <h1>People</h1>
        <span className="quiet">who may sign in, and what they may do</span>
      </header>
      {people.isError && <ProblemNote error={people.error} />}
      {may.keep && <NewPerson onAdd={(p) => put.mutate(p)} pending={put.isPending} />}
      <Table<Person>
        rowKey="id"
        size="small"
        pagination={false}
        dataSource={people.data ?? []}
        locale={{ emptyText: "No people yet. Add one above." }}
        columns={[
          { title: "Name", dataIndex: "name" },
          { title: "Email address", dataIndex: "address" },
          {
            title: "Role",
            render: (_, p) =>
              may.keep && p.id !== session.data?.person.id ? (
                <Select
                  aria-label={`Role of ${p.name}`}
                  value={p.access}
                  options={roles}
                  onChange={(access) => put.mutate({ name: p.name, address: p.address, access })}
                  popupMatchSelectWidth={false}
                />
              ) : (
                roles.find((r) => r.value === p.access)?.label
              ),
          },
          {
            title: <span className="hidden-words">Actions</span>,
            render: (_, p) =>
              may.keep && (
                <span className="inline-fields">
                  <Button size="small" aria-label={`Sign-in link for ${p.name}`} onClick={() => link.mutate(p)}>
                    Sign-in link
                  </Button>
                  <Button size="small" aria-label={`Tokens and calendar of ${p.name}`} onClick={() => setShown(p)}>
                    Tokens and calendar
                  </Button>
                  {p.id !== session.data?.person.id && (
                    <Popconfirm
                      title={`Remove ${p.name}? They are signed out at once; what they did stays in the history.`}
                      okText="Remove"
                      onConfirm={() => drop.mutate(p)}
                    >
                      <Button size="small" danger aria-label={`Remove ${p.name}`}>
                        Remove
                      </Button>
                    </Popconfirm>
                  )}
                </span>
              ),
          },
        ]}
      />
      {shown && <AccessDialog person={shown} onClose={() => setShown(undefined)} />}
    </div>
  );
}

function NewPerson({
  onAdd,
  pending,
}: {
  onAdd: (p: { name?: string; address: string; access: Person["access"] }) => void;
  pending: boolean;
}) {
  const [name, setName] = useState("");
  const [address, setAddress] = useState("");
  const [access, setAccess] = useState<Person["access"]>("editor");
  return (
    <form
      className="inline-fields new-person"
      onSubmit={(e) => {
        e.preventDefault();
        onAdd({ name, address, access });
        setName("");
        setAddress("");
      }}
    >
      <Input
        aria-label="Name"
        placeholder="Name"
        value={name}
        onChange={(e) => setName(e.target.value)}
        style={{ width: 180 }}
      />
      <Input
        aria-label="Email address"
        placeholder="Email address"
        type="email"
        value={address}
        onChange={(e) => setAddress(e.target.value)}
        style={{ width: 240 }}
      />
      <Select aria-label="Role" value={access} options={roles} onChange={setAccess} popupMatchSelectWidth={false} />
      <Button htmlType="submit" type="primary" loading={pending} disabled={address.trim() === ""}>
        Add person
      </Button>
    </form>
  );
}
