// What somebody else has saved since one began to change the same fields.
import { t } from "@lingui/core/macro";
import { Alert } from "antd";

/** Overtaken names fields, each with what is saved of it now; nothing where there are none. */
export function Overtaken({ fields }: { fields: { called: string; now: string }[] }) {
  if (fields.length === 0) return null;
  const named = fields
    .map((f) => (f.now === "" ? t`${f.called} (now empty)` : t`${f.called} (now ${f.now})`))
    .join(", ");
  return (
    <Alert
      type="warning"
      showIcon
      title={t`Someone else has changed this since you began: ${named}. Saving replaces theirs.`}
    />
  );
}
