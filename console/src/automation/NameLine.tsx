// The name of a definition.
import { Input } from "antd";
import type { Parts } from "./DefinitionEditor";

export function NameLine({ body, setBody }: Parts) {
  return (
    <label className="rule-line">
      <span className="rule-word">Name</span>
      <Input
        aria-label="Name"
        value={typeof body.name === "string" ? body.name : ""}
        onChange={(e) => setBody({ ...body, name: e.target.value })}
        style={{ maxWidth: 420 }}
      />
    </label>
  );
}
