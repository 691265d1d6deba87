// A clause as it is written. The editor comes when it is first needed; until then the text
// stands there to be read.
import { Input } from "antd";
import { lazy, Suspense } from "react";

export type ClauseProps = {
  tracker: string;
  tabs: string[];
  edits?: boolean;
  kind?: "condition" | "value" | "template";
  label: string;
  value: string;
  onChange: (clause: string) => void;
};

const ClauseEditor = lazy(() => import("./ClauseEditor"));

export function ClauseField(props: ClauseProps) {
  return (
    <Suspense fallback={<Input.TextArea className="clause" aria-label={props.label} readOnly value={props.value} />}>
      <ClauseEditor {...props} />
    </Suspense>
  );
}
