// A problem of the service, told in its own words: what, where, what to do.
import { Alert } from "antd";
import { problemOf } from "../api/client";

export function ProblemNote({ error }: { error: unknown }) {
  const p = problemOf(error);
  return (
    <Alert
      type="error"
      showIcon
      title={p.title}
      description={
        <>
          <div>{p.detail}</div>
          {p.caret && <pre style={{ margin: "6px 0 0" }}>{p.caret}</pre>}
          {p.conflicts?.map((c) => (
            <div key={c}>{c}</div>
          ))}
          {p.hint && !p.detail.includes(p.hint) && <div>{p.hint}</div>}
        </>
      }
    />
  );
}
