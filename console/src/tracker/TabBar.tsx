// What stands above a tab's rows: its name and count, what chooses rows, and what one may do
// with the tab. It is drawn again when one of these changes, not with every cell that one goes to.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Popover, Space, type InputRef } from "antd";
import { memo, type Ref } from "react";
import { Link } from "react-router";
import type { ChangeSet, Tab, Tracker } from "../api/client";
import type { Present } from "../api/presence";
import { mayAdd, mayOf } from "../parts/may";
import { AlsoHere } from "./AlsoHere";
import { FilterBox } from "./FilterBox";
import { MyChanges } from "./MyChanges";
import { DetailsButton, RowsMenu, type RowItems } from "./RowsMenu";
import type { Mine } from "./undoing";
import type { Arranged } from "./useArrangement";
import { ViewPanel } from "./ViewPanel";

type Props = {
  tracker: Tracker;
  tab: Tab;
  shown: number; // rows
  all: number | undefined; // of how many, where a filter leaves some out
  others: Present[];
  finder: Ref<InputRef>;
  arranged: Arranged;
  frozen: number; // columns, as the grid has them
  workbook: string; // its address
  isNarrow: boolean;
  asCards: boolean;
  onCards: () => void;
  rowItems: (() => RowItems) | undefined; // what can be done to the selected rows, if anything
  why: boolean; // whether the details are shown
  onWhy: () => void;
  onAdd: () => void;
  onColumns: () => void;
  onSaved: (set: ChangeSet) => void;
  onUndo: () => Promise<void>;
  onUndoOne: (entry: Mine) => Promise<void>;
};

export const TabBar = memo(function TabBar(props: Props) {
  const { tracker, tab, shown, all, arranged, asCards, rowItems } = props;
  const { arrangement, arrange } = arranged;
  const may = mayOf(tracker.role);
  return (
    <header className="tracker-bar">
      <h1>{tab.name}</h1>
      <span className="quiet">
        {all === undefined
          ? plural(shown, { one: "# row", other: "# rows" })
          : t`${shown} of ${plural(all, { one: "# row", other: "# rows" })}`}
      </span>
      <AlsoHere tracker={tracker} tab={tab.id} others={props.others} />
      {tab.read_only && (
        <span className="quiet">
          <Trans>You may read this tab, and not change it.</Trans>
        </span>
      )}
      <FilterBox at={props.finder} tracker={tracker.id} tab={tab.name} arrangement={arrangement} onArrange={arrange} />
      <div className="tracker-buttons">
        {mayAdd(tracker, tab) && <Button onClick={props.onAdd}>{t`Add row`}</Button>}
        {!asCards && rowItems && <RowsMenu items={rowItems} />}
        {props.isNarrow && <Button onClick={props.onCards}>{asCards ? t`Show as grid` : t`Show as cards`}</Button>}
        <Popover
          trigger="click"
          placement="bottomRight"
          arrow={false}
          destroyOnHidden
          content={
            <ViewPanel
              tracker={tracker}
              tab={tab}
              arranged={arranged}
              frozen={props.frozen}
              mayKeep={may.keep}
              onSaved={props.onSaved}
            />
          }
        >
          <Button>{arranged.view ? t`View: ${arranged.view.name}` : t`View`}</Button>
        </Popover>
        {may.keep && <Button onClick={props.onColumns}>{t`Columns`}</Button>}
        <Button href={props.workbook} title={t`A workbook of the rows shown`}>
          {t`Export`}
        </Button>
        <Space.Compact>
          {may.edit && (
            <Button onClick={() => void props.onUndo()} title={t`Ctrl+Z`}>
              {t`Undo`}
            </Button>
          )}
          <Popover
            trigger="click"
            placement="bottomRight"
            arrow={false}
            destroyOnHidden
            content={<Changes tracker={tracker} tab={tab} onUndo={may.edit ? props.onUndoOne : undefined} />}
          >
            <Button>{t`Changes`}</Button>
          </Popover>
        </Space.Compact>
        {!asCards && <DetailsButton shown={props.why} onPress={props.onWhy} />}
      </div>
    </header>
  );
});

type ChangesProps = { tracker: Tracker; tab: Tab; onUndo: ((entry: Mine) => Promise<void>) | undefined };

function Changes({ tracker, tab, onUndo }: ChangesProps) {
  return (
    <div className="tab-history">
      <Link to={`/t/${tracker.id}/runs?show=changes&tab=${tab.id}`}>{t`All changes in ${tab.name}`}</Link>
      <Link to={`/t/${tracker.id}/runs?show=as-of&tab=${tab.id}`}>{t`${tab.name} at an earlier time`}</Link>
      {onUndo && <MyChanges tracker={tracker.id} onUndo={onUndo} />}
    </div>
  );
}
