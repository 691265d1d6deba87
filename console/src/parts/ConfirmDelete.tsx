// Confirming a deletion: before one can, the service is asked what would refuse it, so that
// what still needs the thing is said first.
import { t } from "@lingui/core/macro";
import { Popconfirm } from "antd";
import { useRef, useState } from "react";
import { problemOf, type ChangeSet } from "../api/client";

type Props = {
  title: string;
  says?: string; // what goes with it
  okText: string;
  /** work deletes, or tells what deleting would do. */
  work: (query: { preview?: "yes" }) => Promise<ChangeSet>;
  onConfirm: () => void;
  children: React.ReactElement; // what is pressed
};

type Asked = { set?: ChangeSet; error?: unknown };

export function ConfirmDelete({ title, says, okText, work, onConfirm, children }: Props) {
  const [asked, setAsked] = useState<Asked>({});
  const last = useRef(0);
  const opened = async (is: boolean) => {
    const mine = ++last.current;
    setAsked({});
    if (!is) return;
    const answer: Asked = await work({ preview: "yes" }).then(
      (set) => ({ set }),
      (error: unknown) => ({ error }),
    );
    if (mine === last.current) setAsked(answer);
  };
  const refused = asked.error !== undefined ? problemOf(asked.error) : undefined;
  return (
    <Popconfirm
      title={refused?.title ?? title}
      description={
        <div className="confirm-says">{refused?.detail ?? <Consequences says={says} set={asked.set} />}</div>
      }
      okText={okText}
      okButtonProps={{ danger: true, disabled: !asked.set }}
      onOpenChange={(is) => void opened(is)}
      onConfirm={onConfirm}
    >
      {children}
    </Popconfirm>
  );
}

function Consequences({ says, set }: { says: string | undefined; set: ChangeSet | undefined }) {
  return (
    <>
      {says && <p>{says}</p>}
      {set ? set.warnings?.map((w) => <p key={w}>{w}</p>) : <p className="quiet">{t`Checking what needs it…`}</p>}
    </>
  );
}
