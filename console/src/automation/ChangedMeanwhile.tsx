// Two at one definition: what the other one saved stands beside what one has made oneself.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Modal } from "antd";
import type { Definition } from "../api/client";
import { Sentence } from "../parts/Sentence";
import { HistoryOf } from "./HistoryOf";
import type { Kind } from "./kinds";

type Props = {
  kind: Kind;
  tracker: string;
  theirs?: Definition; // none: nobody was quicker
  mine?: string; // as a sentence
  onTheirs: (theirs: Definition) => void;
  onMine: (theirs: Definition) => void;
  onClose: () => void;
};

export function ChangedMeanwhile({ kind, tracker, theirs, mine, onTheirs, onMine, onClose }: Props) {
  const called = kind.called;
  return (
    <Modal
      open={theirs !== undefined}
      title={t`Someone else changed this ${called}`}
      onCancel={onClose}
      footer={
        <>
          <Button onClick={() => theirs && onTheirs(theirs)}>{t`Use theirs`}</Button>
          <Button onClick={onClose}>{t`Keep editing`}</Button>
          <Button type="primary" onClick={() => theirs && onMine(theirs)}>
            {t`Save mine`}
          </Button>
        </>
      }
    >
      <h3>
        <Trans>Theirs</Trans>
      </h3>
      <p>
        <Sentence text={theirs?.says} />
      </p>
      <h3>
        <Trans>Mine</Trans>
      </h3>
      <p>
        <Sentence text={mine} />
      </p>
      {theirs && <HistoryOf kind={kind} tracker={tracker} definition={theirs.id} />}
    </Modal>
  );
}
