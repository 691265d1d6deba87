// A file for a cell: chosen or dropped, uploaded at once, and shown where it is a picture.
import { t } from "@lingui/core/macro";
import type { Column } from "../../api/client";
import { FileField } from "../../parts/FileField";
import { address } from "../../parts/text";

type Props = { column: Column; text: string; onPick: (text: string) => void };

export function FilePicker({ column, text, onPick }: Props) {
  const { to, label } = address(text);
  const isPicture = to.startsWith("/api/v1/attachments/") && /\.(png|jpe?g|gif|webp)$/i.test(label);
  return (
    <div className="cell-file">
      {isPicture && <img src={to} alt={t`Preview of ${label}`} />}
      <FileField column={column} value={text === "" ? undefined : text} onChange={(value) => onPick(value ?? "")} />
    </div>
  );
}
