// Two people in one cell: the second sees both values and decides.
import { Button, Modal } from "antd";
import { orBlank } from "../parts/text";
import type { Race } from "./useEdits";

export function RaceDialog({ race, onSettle }: { race?: Race; onSettle: (mine: boolean) => void }) {
  return (
    <Modal
      open={race !== undefined}
      title="Someone else changed this cell"
      onCancel={() => onSettle(false)}
      footer={[
        <Button key="theirs" onClick={() => onSettle(false)}>
          Keep theirs
        </Button>,
        <Button key="mine" type="primary" onClick={() => onSettle(true)}>
          Use mine
        </Button>,
      ]}
    >
      {race && (
        <>
          <p>
            {race.column.name} of {race.current.label}
            {race.current.tab_id !== race.row.tab_id && `, which is in ${race.current.tab} now`}
          </p>
          <table className="race">
            <tbody>
              <tr>
                <th scope="row">Before</th>
                <td className="quiet">{orBlank(race.row.cells[race.column.name])}</td>
              </tr>
              <tr>
                <th scope="row">Theirs (saved)</th>
                <td>{orBlank(race.current.cells[race.column.name])}</td>
              </tr>
              <tr>
                <th scope="row">Yours, not saved</th>
                <td>{orBlank(race.mine)}</td>
              </tr>
            </tbody>
          </table>
        </>
      )}
    </Modal>
  );
}
