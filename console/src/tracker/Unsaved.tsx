// What was typed and could not be saved. It stays here, over reloads too, until
// it is saved after all or its writer discards it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Input } from "antd";
import type { Draft } from "./drafts";

type Props = {
  drafts: Draft[];
  onSave: (draft: Draft) => void;
  onChange: (draft: Draft, text: string) => void;
  onDiscard: (draft: Draft) => void;
};

export function Unsaved({ drafts, onSave, onChange, onDiscard }: Props) {
  if (drafts.length === 0) return null;
  return (
    <section className="unsaved" aria-label={t`Not saved`} role="status">
      <h2>
        <Trans>Not saved</Trans>
      </h2>
      <ul className="plain">
        {drafts.map((d) => (
          <li key={d.id}>
            <div>
              <b>{d.title}</b> <span className="late">{d.why}</span>
            </div>
            {d.cells.length === 1 ? (
              <Input.TextArea
                aria-label={t`Not saved: ${d.title}`}
                autoSize={{ minRows: 1, maxRows: 4 }}
                value={d.cells[0]?.text ?? ""}
                onChange={(e) => onChange(d, e.target.value)}
              />
            ) : (
              <pre className="unsaved-block">{d.cells.map((c) => `${c.column}: ${c.text}`).join("\n")}</pre>
            )}
            <div className="unsaved-buttons">
              <Button size="small" type="primary" onClick={() => onSave(d)}>
                {t`Save`}
              </Button>
              <Button size="small" onClick={() => onDiscard(d)}>
                {t`Discard`}
              </Button>
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}
