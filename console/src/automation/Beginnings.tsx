// Ready beginnings, each with what it would do, to choose from.
import { t } from "@lingui/core/macro";
import { Button } from "antd";
import { useId, useState, type ReactNode } from "react";
import type { Body } from "./kinds";
import "./automation.css";

export type Start = { id: string; title: string; says: string };

/** A Beginning is a definition to begin with, filled in for the tracker at hand. */
export type Beginning = Start & { body: Body };

type Props = { title: string; from: Start[]; onChoose: (id: string) => void; onCancel?: () => void };

export function Beginnings({ title, from, onChoose, onCancel }: Props) {
  const id = useId();
  return (
    <section className="section" aria-label={title}>
      <h2>{title}</h2>
      <div className="beginnings">
        {from.map((b) => (
          <button
            type="button"
            key={b.id}
            className="beginning"
            aria-label={b.title}
            aria-describedby={`${id} ${b.id}`.replace(/\s/g, "-")}
            onClick={() => onChoose(b.id)}
          >
            <strong>{b.title}</strong>
            <span className="quiet" id={`${id} ${b.id}`.replace(/\s/g, "-")}>
              {b.says}
            </span>
          </button>
        ))}
      </div>
      {onCancel && (
        <p>
          <Button size="small" onClick={onCancel}>
            {t`Cancel`}
          </Button>
        </p>
      )}
    </section>
  );
}

type Offered = {
  keep: boolean; // one may make such a thing
  none: boolean | undefined; // there is none yet; undefined: that is not known
  create: string; // on the button
  nothing: string; // said where there is none, before what one may begin with
  barred: string; // the same to whoever may not make one
  primary?: boolean;
  from: Start[];
  onChoose: (id: string) => void;
};

/** useBeginnings gives a button that makes something new, and what it may begin with, which is
 * shown at once where there is nothing yet. */
export function useBeginnings(of: Offered): { button: ReactNode; offers: ReactNode } {
  const [choosing, setChoosing] = useState(false);
  if (!of.keep) return { button: null, offers: of.none && <p className="quiet">{of.barred}</p> };
  return {
    button: of.none === false && (
      <Button type={of.primary ? "primary" : "default"} onClick={() => setChoosing(true)}>
        {of.create}
      </Button>
    ),
    offers: (of.none || choosing) && (
      <Beginnings
        title={of.none ? of.nothing : t`How do you want to begin?`}
        from={of.from}
        onChoose={of.onChoose}
        onCancel={of.none ? undefined : () => setChoosing(false)}
      />
    ),
  };
}

/** begun gives the body of a beginning, or of the last, which is an empty one. */
export const begun = (all: Beginning[], id: string): Body => (all.find((b) => b.id === id) ?? all.at(-1))?.body ?? {};
