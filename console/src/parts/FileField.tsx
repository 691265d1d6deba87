// A field for a file: it is uploaded at once, and the field's value is where it is kept.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Upload } from "antd";
import { createContext, use, useState } from "react";
import { problemOf, type Column } from "../api/client";
import { address } from "./text";

/** Keeps a file for a column and gives the value of a cell that holds it. */
export type KeepFile = (column: Column, file: File) => Promise<{ value: string }>;

/** How files of the fields below are kept; without it, a field takes an address. */
export const KeepFileContext = createContext<KeepFile | null>(null);

type Props = { column: Column; id?: string; value?: string; onChange?: (value: string | undefined) => void };

export function FileField({ column, id, value, onChange }: Props) {
  const keep = use(KeepFileContext);
  const [sending, setSending] = useState<string>();
  const [problem, setProblem] = useState<string>();
  const send = async (file: File) => {
    setSending(file.name);
    setProblem(undefined);
    try {
      const kept = await keep?.(column, file);
      onChange?.(kept?.value);
    } catch (err) {
      setProblem(t`${file.name} was not uploaded: ${problemOf(err).detail}`);
    } finally {
      setSending(undefined);
    }
  };
  return (
    <div className="file-field">
      <Upload
        id={id}
        aria-label={column.name}
        maxCount={1}
        showUploadList={false}
        beforeUpload={(file) => {
          void send(file);
          return false;
        }}
      >
        <Button loading={sending !== undefined}>{value ? t`Choose another file` : t`Choose a file`}</Button>
      </Upload>
      {sending && (
        <span className="quiet">
          <Trans>Uploading {sending}…</Trans>
        </span>
      )}
      {value && !sending && (
        <span>
          {address(value).label}{" "}
          <Button type="link" size="small" onClick={() => onChange?.(undefined)}>
            {t`Remove`}
          </Button>
        </span>
      )}
      {problem && (
        <span role="alert" className="file-problem">
          {problem}
        </span>
      )}
    </div>
  );
}
