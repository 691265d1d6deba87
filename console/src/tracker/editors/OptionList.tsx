// What a cell can hold, to choose from.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef } from "react";
import { Chip } from "../../parts/Chip";
import type { Option } from "./options";

type Props = {
  id: string;
  name: string;
  options: Option[];
  at?: number; // the one that arrows have led to
  chosen?: string[]; // where several can be chosen
  unsure: boolean; // what is typed could mean several
  onTake: (name: string) => void;
};

const most = 200; // drawn at once; typing finds the rest

export function OptionList({ id, name, options, at, chosen, unsure, onTake }: Props) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    box.current?.querySelector("[aria-selected=true]")?.scrollIntoView?.({ block: "nearest" });
  }, [at]);
  return (
    <>
      {unsure && (
        <p className="late" role="alert">
          <Trans>Several match. Type more, or choose one with the arrow keys.</Trans>
        </p>
      )}
      <div ref={box} id={id} role="listbox" aria-label={t`Choices of ${name}`} className="cell-options">
        {options.slice(0, most).map((o, i) => (
          <div
            key={o.name}
            id={`${id}-${i}`}
            role="option"
            aria-selected={i === at}
            aria-checked={chosen && chosen.includes(o.name)}
            className={i === at ? "cell-option cell-option-at" : "cell-option"}
            onClick={() => onTake(o.name)}
          >
            {chosen && <span className="cell-option-tick">{chosen.includes(o.name) ? "✓" : ""}</span>}
            {o.also === undefined ? <Chip name={o.name} colour={o.colour} /> : o.name}
          </div>
        ))}
      </div>
      {options.length === 0 && (
        <p className="quiet">
          <Trans>No match.</Trans>
        </p>
      )}
    </>
  );
}
