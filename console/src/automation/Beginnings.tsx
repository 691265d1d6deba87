// Ready beginnings, each with what it would do, to choose from.
import { t } from "@lingui/core/macro";
import { Button } from "antd";

export type Start = { id: string; title: string; says: string };

type Props = { title: string; from: Start[]; onChoose: (id: string) => void; onCancel?: () => void };

export function Beginnings({ title, from, onChoose, onCancel }: Props) {
  return (
    <section className="section" aria-label={title}>
      <h2>{title}</h2>
      <div className="beginnings">
        {from.map((b) => (
          <button type="button" key={b.id} className="beginning" onClick={() => onChoose(b.id)}>
            <strong>{b.title}</strong>
            <span className="quiet">{b.says}</span>
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
