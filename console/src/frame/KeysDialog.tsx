// Every key, in a list.
import { t } from "@lingui/core/macro";
import { Modal } from "antd";

export default function KeysDialog({ onClose }: { onClose: () => void }) {
  const groups: [string, [string, string][]][] = [
    [
      t`Everywhere`,
      [
        [t`Ctrl K`, t`Go to a page, tab, rule or row`],
        [t`F6`, t`Go to the next part of the page`],
        [t`?`, t`Show all keys; Ctrl / while you type or are in the grid`],
      ],
    ],
    [
      t`Going about the grid`,
      [
        [t`Arrows, Home, End, Page Up, Page Down`, t`Go to a cell; with Ctrl to the first or last`],
        [t`Tab`, t`Leave the grid; while you type, save and go to the next cell`],
        [t`Ctrl Enter`, t`Open the link in a cell`],
        [t`Ctrl F`, t`Find words in the rows`],
        [t`Alt ↓`, t`Open the menu of a column: sort, filter, hide`],
        [t`F4`, t`Show or hide the details of a cell`],
      ],
    ],
    [
      t`Selecting`,
      [
        [t`Shift and an arrow, or drag`, t`Select a range`],
        [t`Shift Space`, t`Select whole rows`],
        [t`Ctrl Space`, t`Select whole columns, as a click on a name does`],
        [t`Ctrl A`, t`Select all`],
      ],
    ],
    [
      t`Editing`,
      [
        [t`Enter, F2, or just type`, t`Edit a cell`],
        [t`Esc`, t`Leave it as it was`],
        [t`Alt Enter`, t`Start a new line in a cell`],
        [t`Delete`, t`Clear`],
        [t`Ctrl C, Ctrl X, Ctrl V`, t`Copy, cut, paste; one value fills a whole range`],
        [t`Ctrl D`, t`Fill a range with its first row`],
        [t`Ctrl R`, t`Fill a range with its first column`],
        [t`Ctrl H`, t`Find and replace`],
        [t`Ctrl Z`, t`Undo`],
        [t`Ctrl Shift Z, Ctrl Y`, t`Redo`],
      ],
    ],
  ];
  return (
    <Modal open title={t`Keys`} footer={null} width={720} onCancel={onClose}>
      {groups.map(([title, keys]) => (
        <section key={title} className="keys">
          <h3>{title}</h3>
          <dl>
            {keys.map(([key, says]) => (
              <div key={key}>
                <dt>{key}</dt>
                <dd>{says}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </Modal>
  );
}
