// The name of a definition.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Input } from "antd";
import type { Parts } from "./DefinitionEditor";

export function NameLine({ body, setBody }: Parts) {
  return (
    <label className="rule-line">
      <span className="rule-word">
        <Trans>Name</Trans>
      </span>
      <Input
        aria-label={t`Name`}
        value={typeof body.name === "string" ? body.name : ""}
        onChange={(e) => setBody({ ...body, name: e.target.value })}
        style={{ maxWidth: 420 }}
      />
    </label>
  );
}
