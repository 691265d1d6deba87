// Two people in one cell: the second sees both values and decides.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Modal } from "antd";
import { orBlank } from "../parts/text";
import type { Race } from "./useEdits";

export function RaceDialog({ race, onSettle }: { race?: Race; onSettle: (mine: boolean) => void }) {
  return (
    <Modal
      open={race !== undefined}
      title={t`Someone else changed this cell`}
      onCancel={() => onSettle(false)}
      footer={[
        <Button key="theirs" onClick={() => onSettle(false)}>
          {t`Keep theirs`}
        </Button>,
        <Button key="mine" type="primary" onClick={() => onSettle(true)}>
          {t`Use mine`}
        </Button>,
      ]}
    >
      {race && (
        <>
          <p>
            <Trans>
              {race.column.name} of {race.current.label}
              {race.current.tab_id !== race.row.tab_id && t`, which is in ${race.current.tab} now`}
            </Trans>
          </p>
          <table className="race">
            <tbody>
              <tr>
                <th scope="row">
                  <Trans>Before</Trans>
                </th>
                <td className="quiet">{orBlank(race.row.cells[race.column.name])}</td>
              </tr>
              <tr>
                <th scope="row">
                  <Trans>Theirs (saved)</Trans>
                </th>
                <td>{orBlank(race.current.cells[race.column.name])}</td>
              </tr>
              <tr>
                <th scope="row">
                  <Trans>Yours, not saved</Trans>
                </th>
                <td>{orBlank(race.mine)}</td>
              </tr>
            </tbody>
          </table>
        </>
      )}
    </Modal>
  );
}
