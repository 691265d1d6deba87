// Choosing rows: by words while they are typed, or by a clause.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Input, Popover, type InputRef } from "antd";
import { useEffect, useRef, useState, type Ref } from "react";
import { ClauseField } from "../automation/ClauseField";
import "../automation/automation.css";
import type { Arrangement } from "./arrangement";

type Props = {
  tracker: string;
  tab: string; // its name
  arrangement: Arrangement;
  onArrange: (part: Partial<Arrangement>) => void;
  at?: Ref<InputRef>; // the field for words
};

const settle = 150; // milliseconds after the last letter

export function FilterBox({ tracker, tab, arrangement, onArrange, at }: Props) {
  const [words, setWords] = useState(arrangement.words);
  const sent = useRef(arrangement.words); // the address follows a moment later
  useEffect(() => {
    if (arrangement.words === sent.current) return;
    sent.current = arrangement.words; // taken off, or of a view
    setWords(arrangement.words);
  }, [arrangement.words]);
  useEffect(() => {
    if (words === sent.current) return;
    const timer = window.setTimeout(() => {
      sent.current = words;
      onArrange({ words });
    }, settle);
    return () => window.clearTimeout(timer);
  }, [words, onArrange]);
  const [open, setOpen] = useState(false);
  return (
    <>
      <Input
        ref={at}
        className="tracker-where"
        allowClear
        placeholder={t`Find in these rows`}
        aria-label={t`Find in these rows`}
        title={t`Words a row contains, in any column. Ctrl+F`}
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      <Popover
        open={open}
        onOpenChange={setOpen}
        trigger="click"
        placement="bottomLeft"
        arrow={false}
        destroyOnHidden
        content={
          <ByClause
            tracker={tracker}
            tab={tab}
            where={arrangement.where}
            onDone={(where) => {
              setOpen(false);
              onArrange({ where });
            }}
          />
        }
      >
        <Button aria-expanded={open}>{t`Filter`}</Button>
      </Popover>
    </>
  );
}

function ByClause({
  tracker,
  tab,
  where,
  onDone,
}: {
  tracker: string;
  tab: string;
  where: string;
  onDone: (where: string) => void;
}) {
  const [text, setText] = useState(where);
  return (
    <div role="dialog" aria-label={t`Filter`} className="filter-panel">
      <p className="quiet">
        <Trans>Show rows that match, such as Due before today and Stage is not blank.</Trans>
      </p>
      <ClauseField tracker={tracker} tabs={[tab]} label={t`Filter clause`} value={text} onChange={setText} />
      <span className="inline-fields">
        <Button type="primary" onClick={() => onDone(text.trim())}>{t`Apply filter`}</Button>
        {where !== "" && <Button onClick={() => onDone("")}>{t`Remove filter`}</Button>}
      </span>
      <p className="quiet">
        <Trans>To filter by values, open the menu beside a column name.</Trans>
      </p>
    </div>
  );
}
