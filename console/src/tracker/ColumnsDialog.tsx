// The columns of a tab: added, changed and dropped, with what that would do to
// the rows shown before it is done.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Checkbox, Input, Modal, Select } from "antd";
import { useEffect, useMemo, useState } from "react";
import { api, ask, type ChangeSet, type Column, type Tab, type Tracker } from "../api/client";
import { ConfirmDelete } from "../parts/ConfirmDelete";
import { Overtaken } from "../parts/Overtaken";
import { ProblemNote } from "../parts/ProblemNote";
import { useFields } from "../parts/useFields";
import type { Edits } from "./useEdits";
import { definitionOf, draftOf, fresh, has, type ColumnDraft } from "./columnDraft";

type Props = { tracker: Tracker; tab: Tab; edits: Edits; onClose: () => void };

const types = ["text", "number", "date", "date-time", "checkbox", "choice", "person", "link", "file", "computed"];
const rest = 350; // milliseconds without a key before it is checked

export function ColumnsDialog({ tracker, tab, edits, onClose }: Props) {
  const [chosen, setChosen] = useState<string>();
  const [copied, setCopied] = useState<string>(); // of the column that is added: a copy of another
  const column = tab.columns.find((c) => c.id === chosen);
  const add = (copy?: Column) => {
    setCopied(copy?.id);
    setChosen("new");
  };
  // an answer may come late: it closes its own form, not one chosen since
  const leave = (form?: string) => setChosen((now) => (now === form ? undefined : now));
  return (
    <Modal open width={880} title={t`The columns of ${tab.name}`} footer={null} onCancel={onClose}>
      <div className="columns">
        <div className="columns-list">
          {tab.columns.map((c) => (
            <Button key={c.id} type={c.id === chosen ? "primary" : "text"} block onClick={() => setChosen(c.id)}>
              {c.name} <span className="columns-type">{c.clause ? t`computed` : c.type}</span>
            </Button>
          ))}
          <Button block onClick={() => add()} type={chosen === "new" ? "primary" : "default"}>
            {t`Add a column`}
          </Button>
        </div>
        {(column ?? chosen === "new") ? (
          <ColumnForm
            key={`${chosen} ${column ? "" : (copied ?? "")}`}
            tracker={tracker}
            tab={tab}
            column={column}
            like={column ? undefined : tab.columns.find((c) => c.id === copied)}
            edits={edits}
            onCopy={add}
            onDone={() => leave(chosen)}
          />
        ) : chosen ? (
          <p className="soon">
            <Trans>Someone has deleted this column.</Trans>
          </p>
        ) : (
          <p className="quiet">
            <Trans>Select a column to edit.</Trans>
          </p>
        )}
      </div>
    </Modal>
  );
}

type FormProps = {
  tracker: Tracker;
  tab: Tab;
  column?: Column; // the one to change; undefined: one is added
  like?: Column; // of one that is added: the column that it is a copy of
  edits: Edits;
  onCopy: (column: Column) => void;
  onDone: () => void;
};

function ColumnForm({ tracker, tab, column, like, edits, onCopy, onDone }: FormProps) {
  const [copy] = useState(() => (like ? { ...draftOf(like), name: nameOfCopy(like, tab), after: like.name } : fresh));
  const saved = useMemo(() => (column ? draftOf(column) : copy), [column, copy]);
  const { fields: draft, put, overtaken } = useFields<ColumnDraft>(saved);
  const [values, setValues] = useState(!like?.clause);
  const [checked, setChecked] = useState<{ draft: ColumnDraft; set?: ChangeSet; error?: unknown }>();
  const queries = useQueryClient();
  const done = (set: ChangeSet) => {
    edits.accept(set); // so that it can be undone as anything else
    void queries.invalidateQueries();
    onDone();
  };
  useEffect(() => {
    if (draft.name.trim() === "") return;
    const timer = window.setTimeout(() => {
      save(tracker, tab, column, draft, like, values, true)
        .then((set) => setChecked({ draft, set }))
        .catch((error: unknown) => setChecked({ draft, error }));
    }, rest);
    return () => window.clearTimeout(timer);
  }, [tracker, tab, column, draft, like, values]);
  const keep = useMutation({
    mutationFn: () => save(tracker, tab, column, draft, like, values, false),
    onSuccess: done,
  });
  const dropped = (query: { preview?: "yes" }) =>
    ask(
      api.DELETE("/api/v1/trackers/{tracker}/tabs/{tab}/columns/{column}", {
        params: { path: { tracker: tracker.id, tab: tab.id, column: column?.id ?? "" }, query },
      }),
    );
  const drop = useMutation({ mutationFn: () => dropped({}), onSuccess: done });
  const current = checked?.draft === draft ? checked : undefined;
  return (
    <form
      className="columns-form"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate();
      }}
    >
      <Fields draft={draft} put={put} columns={tab.columns.filter((c) => c.id !== column?.id)} />
      {like && !like.clause && (
        <Checkbox className="wide" checked={values} onChange={(e) => setValues(e.target.checked)}>
          {t`Copy the values of ${like.name} too`}
        </Checkbox>
      )}
      <div aria-live="polite" className="columns-answer">
        <Overtaken fields={overtaken.map((k) => ({ called: called[k] ?? k, now: said(saved[k]) }))} />
        {keep.isError && <ProblemNote error={keep.error} />}
        {drop.isError && <ProblemNote error={drop.error} />}
        {current?.error !== undefined && <ProblemNote error={current.error} />}
        {current?.set?.changes.length === 0 && (
          <p className="quiet">
            <Trans>It is as it was.</Trans>
          </p>
        )}
        {current?.set?.warnings?.map((w) => (
          <Alert key={w} type="warning" showIcon title={w} />
        ))}
      </div>
      <div className="columns-buttons">
        {column && <Button onClick={() => onCopy(column)}>{t`Copy column`}</Button>}
        {column && (
          <ConfirmDelete
            title={t`Delete column ${column.name}?`}
            says={t`It goes from this tab with all that its cells show. Undo brings it back.`}
            okText={t`Delete column`}
            work={dropped}
            onConfirm={() => drop.mutate()}
          >
            <Button danger loading={drop.isPending}>
              {t`Delete column`}
            </Button>
          </ConfirmDelete>
        )}
        <Button
          type="primary"
          htmlType="submit"
          disabled={!current?.set || current.set.changes.length === 0}
          loading={keep.isPending}
        >
          {column ? t`Save` : t`Add column`}
        </Button>
      </div>
    </form>
  );
}

const called: Partial<Record<keyof ColumnDraft, string>> = {
  name: t`Name`,
  type: t`Type`,
  options: t`Options`,
  format: t`Number format`,
  clause: t`Computed from`,
  default: t`Default`,
  minimum: t`Minimum`,
  maximum: t`Maximum`,
  longest: t`Maximum length`,
  required: t`Required`,
  unique: t`Unique in this tab`,
  several: t`Allow several options`,
  automatic: t`Automatic number`,
  refuse: t`Reject invalid values`,
};

const said = (v: string | boolean) => (typeof v === "string" ? v.replaceAll("\n", ", ") : v ? t`yes` : t`no`);

type FieldsProps = { draft: ColumnDraft; put: (more: Partial<ColumnDraft>) => void; columns: Column[] };

function Fields({ draft, put, columns }: FieldsProps) {
  const use = has(draft.type);
  const text = (
    label: string,
    key: "name" | "clause" | "format" | "default" | "minimum" | "maximum" | "longest",
    hint?: string,
  ) => (
    <label>
      {label}
      <Input value={draft[key]} placeholder={hint} onChange={(e) => put({ [key]: e.target.value })} />
    </label>
  );
  const tick = (label: string, key: "required" | "unique" | "several" | "automatic" | "refuse") => (
    <Checkbox checked={draft[key]} onChange={(e) => put({ [key]: e.target.checked })}>
      {label}
    </Checkbox>
  );
  return (
    <>
      {text(t`Name`, "name")}
      <label>
        <Trans>
          Type
          <Select
            value={draft.type}
            options={types.map((value) => ({ value }))}
            onChange={(type: string) => put({ type })}
          />
        </Trans>
      </label>
      {use.computed && text(t`Computed from`, "clause", "days between Arrived and today")}
      {use.options && (
        <label className="wide">
          <Trans>
            Options, one per line; colour optional
            <Input.TextArea
              autoSize={{ minRows: 3, maxRows: 8 }}
              placeholder={t`Agreed = blue
Held = amber`}
              value={draft.options}
              onChange={(e) => put({ options: e.target.value })}
            />
          </Trans>
        </label>
      )}
      {use.number && text(t`Number format`, "format", t`plain, percent, rating, duration or EUR`)}
      {use.stored && text(t`Default`, "default")}
      {use.ordered && text(t`Minimum`, "minimum")}
      {use.ordered && text(t`Maximum`, "maximum")}
      {use.text && text(t`Maximum length`, "longest")}
      <label>
        <Trans>
          Place after
          <Select
            allowClear
            placeholder={t`where it is, or last`}
            value={draft.after || undefined}
            options={columns.map((c) => ({ value: c.name }))}
            onChange={(after?: string) => put({ after: after ?? "" })}
          />
        </Trans>
      </label>
      {use.stored && (
        <div className="columns-ticks">
          {tick(t`Required`, "required")}
          {tick(t`Unique in this tab`, "unique")}
          {use.several && tick(t`Allow several options`, "several")}
          {use.number && tick(t`Automatic number`, "automatic")}
          {tick(t`Reject invalid values`, "refuse")}
        </div>
      )}
    </>
  );
}

/** nameOfCopy gives a name for a copy of a column that no column of the tab has. */
function nameOfCopy(of: Column, tab: Tab): string {
  const taken = tab.columns.map((c) => c.name);
  const name = (n: number) => (n === 1 ? t`${of.name}, copy` : t`${of.name}, copy ${n}`);
  let n = 1;
  while (taken.includes(name(n))) n++;
  return name(n);
}

function save(
  tracker: Tracker,
  tab: Tab,
  column: Column | undefined,
  draft: ColumnDraft,
  like: Column | undefined,
  values: boolean,
  preview: boolean,
): Promise<ChangeSet> {
  const query = preview ? { preview: "yes" as const } : {};
  const definition = definitionOf(draft);
  const after = draft.after || undefined;
  if (!column) {
    // of a copy, what is left empty is taken away
    const given = like ? definition : Object.fromEntries(Object.entries(definition).filter(([, v]) => v !== null));
    return ask(
      api.POST("/api/v1/trackers/{tracker}/tabs/{tab}/columns", {
        params: { path: { tracker: tracker.id, tab: tab.id }, query },
        body: { name: draft.name.trim(), after, definition: given, like: like?.id, copy_values: like && values },
      }),
    );
  }
  return ask(
    api.PATCH("/api/v1/trackers/{tracker}/tabs/{tab}/columns/{column}", {
      params: { path: { tracker: tracker.id, tab: tab.id, column: column.id }, query },
      body: {
        name: draft.name === column.name ? undefined : draft.name.trim(),
        after,
        definition: differing(definition, definitionOf(draftOf(column))),
      },
    }),
  );
}

/** differing gives what of a definition is not as it was, and all of it where its type is another. */
function differing(is: Record<string, unknown>, was: Record<string, unknown>) {
  if (is.type !== was.type) return is;
  return Object.fromEntries(Object.entries(is).filter(([k, v]) => JSON.stringify(v) !== JSON.stringify(was[k])));
}
