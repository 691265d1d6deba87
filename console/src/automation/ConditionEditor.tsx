// A condition built by choosing columns, comparisons and values, or typed as a clause.
import { t } from "@lingui/core/macro";
import { Button, Select } from "antd";
import { useState } from "react";
import type { Column, Person } from "../api/client";
import { ClauseField } from "./ClauseField";
import { alone, operators, opSays, print, read, type Condition, type Part } from "./condition";
import { ValueField } from "./ValueField";
import { TakeOff } from "./TakeOff";

type Props = {
  tracker: string;
  tabs: string[]; // names of the tabs whose rows are meant
  columns: Column[];
  people: Person[];
  edits?: boolean; // an edit sets it off: what has changed may be asked
  label: string;
  value: string;
  onChange: (clause: string) => void;
};

export function ConditionEditor(props: Props) {
  const { columns, people, edits = false, value, onChange, label } = props;
  const [asText, setAsText] = useState(false);
  // what is half chosen is no clause yet: it is kept here
  const [draft, setDraft] = useState<{ of: string; is: Condition }>();
  const c = draft?.of === value ? draft.is : read(value, columns);
  const change = (is: Condition) => {
    const done = {
      ...is,
      parts: is.parts.filter((p) => p.kind === "clause" || alone.includes(p.op) || p.value !== ""),
    };
    const text = print(done);
    setDraft({ of: text, is });
    onChange(text);
  };
  const put = (i: number, p: Part) => change({ ...c, parts: c.parts.map((old, k) => (k === i ? p : old)) });
  if (asText) {
    return (
      <div className="condition" role="group" aria-label={label}>
        <ClauseField {...props} label={t`${label}, as a clause`} />
        <Button type="link" size="small" onClick={() => setAsText(false)}>
          {t`Choose instead`}
        </Button>
      </div>
    );
  }
  return (
    <div className="condition" role="group" aria-label={label}>
      {c.parts.map((p, i) => (
        <div className="condition-part" key={i}>
          {i > 0 &&
            (i === 1 ? (
              <Select
                aria-label={t`and, or`}
                size="small"
                value={c.join}
                options={[{ value: "and" }, { value: "or" }]}
                onChange={(join) => change({ ...c, join })}
              />
            ) : (
              <span className="condition-join">{c.join}</span>
            ))}
          <PartFields {...props} edits={edits} people={people} part={p} onChange={(to) => put(i, to)} />
          <TakeOff
            label={t`Delete condition ${i + 1}`}
            onClick={() => change({ ...c, parts: c.parts.filter((_, k) => k !== i) })}
          />
        </div>
      ))}
      <Button
        type="link"
        size="small"
        onClick={() => {
          const first = columns[0];
          if (!first) return;
          const op = operators(first, edits)[0] ?? "is";
          change({ ...c, parts: [...c.parts, { kind: "compare", column: first.name, op, value: "" }] });
        }}
      >
        {t`Add condition`}
      </Button>
      <Button type="link" size="small" onClick={() => setAsText(true)}>
        {t`Type as a clause`}
      </Button>
    </div>
  );
}

function PartFields({
  part,
  onChange,
  ...props
}: Omit<Props, "onChange"> & { edits: boolean; part: Part; onChange: (p: Part) => void }) {
  const { columns, people, edits } = props;
  if (part.kind === "clause") {
    return (
      <ClauseField
        {...props}
        label={t`Clause`}
        value={part.text}
        onChange={(text) => onChange({ kind: "clause", text })}
      />
    );
  }
  const column = columns.find((c) => c.name === part.column);
  const ops = operators(column, edits);
  return (
    <>
      <Select
        showSearch={{ optionFilterProp: "label" }}
        aria-label={t`Column`}
        value={part.column}
        options={columns.map((c) => ({ value: c.name, label: c.name }))}
        onChange={(name: string) => {
          const to = columns.find((c) => c.name === name);
          const fits = operators(to, edits).includes(part.op) && to?.type === column?.type;
          onChange({
            kind: "compare",
            column: name,
            op: fits ? part.op : (operators(to, edits)[0] ?? "is"),
            value: fits ? part.value : "",
          });
        }}
        popupMatchSelectWidth={false}
      />
      <Select
        aria-label={t`Comparison`}
        value={part.op}
        options={(ops.includes(part.op) ? ops : [part.op, ...ops]).map((o) => ({ value: o, label: opSays(o) }))}
        onChange={(op) => onChange({ ...part, op, value: alone.includes(op) ? "" : part.value })}
        popupMatchSelectWidth={false}
      />
      {!alone.includes(part.op) && (
        <ValueField
          column={column}
          op={part.op}
          value={part.value}
          people={people}
          onChange={(value) => onChange({ ...part, value })}
        />
      )}
    </>
  );
}
