// The name of one part among several, each of which must have another.
import { t } from "@lingui/core/macro";
import { Input } from "antd";
import { useState } from "react";

type Props = {
  label: string;
  value: string;
  taken: string[]; // names of the other parts
  width?: number; // in pixels
  onChange: (name: string) => void;
};

// What cannot be the name yet, while one types, stays in the field: one that another part has,
// none at all, or a number, by which JavaScript would put the part first.
export function NameField({ label, value, taken, width = 160, onChange }: Props) {
  const [typed, setTyped] = useState<string>();
  const isTaken = typed !== undefined && taken.includes(typed);
  const isNone = typed?.trim() === "";
  const settle = () => {
    if (typed === undefined || isTaken || isNone) return;
    setTyped(undefined);
    onChange(typed);
  };
  return (
    <>
      <Input
        aria-label={label}
        status={isTaken || isNone ? "error" : undefined}
        value={typed ?? value}
        onBlur={settle}
        onPressEnter={settle}
        onChange={({ target: { value: to } }) => {
          const must = to.trim() === "" || taken.includes(to) || /^\d+$/.test(to);
          setTyped(must ? to : undefined);
          if (!must) onChange(to);
        }}
        style={{ width }}
      />
      {(isTaken || isNone) && (
        <span role="alert" className="soon">
          {isTaken ? t`Another has this name: it is still ${value}.` : t`It needs a name: it is still ${value}.`}
        </span>
      )}
    </>
  );
}

/** freeName gives the first name that is not taken, counting on from how many there are. */
export function freeName(name: (n: number) => string, taken: string[]): string {
  let n = taken.length + 1;
  while (taken.includes(name(n))) n++;
  return name(n);
}
