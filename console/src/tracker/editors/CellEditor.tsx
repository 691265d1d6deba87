// The editor of the active cell; it is there only while somebody types. What is typed stands in
// a field; below it lies what helps with the column's type.
import { t } from "@lingui/core/macro";
import { Popover } from "antd";
import { use, useEffect, useId, useLayoutEffect, useRef, useState } from "react";
import type { Column, Person } from "../../api/client";
import { todayIn } from "../../parts/time";
import { Writing } from "../../parts/writing";
import { DayPicker } from "./DayPicker";
import { FilePicker } from "./FilePicker";
import { LinkWords } from "./LinkWords";
import { OptionList } from "./OptionList";
import { matching, meant, parts, toggled } from "./options";
import { Rating } from "./Rating";
import { dayOf, moment, plusDays } from "./readDay";
import { optionsOf, toSave } from "./written";

type Key = "Enter" | "Tab" | "";

// of an editor that lies over the rows below
const perLine = 34; // letters, about
const mostLines = 8;

type Props = {
  column: Column;
  text: string;
  people: Person[];
  onChange: (text: string) => void; // at each key, so that nothing typed is lost
  onDone: (text: string, key: Key, shift: boolean) => void;
  onCancel: () => void;
};

export function CellEditor({ column, text, people, onChange, onDone, onCancel }: Props) {
  const [now, setNow] = useState(text);
  const [at, setAt] = useState<number>(); // of the option that arrows have led to
  const [unsure, setUnsure] = useState(false);
  const input = useRef<HTMLInputElement | HTMLTextAreaElement | null>(null);
  const panel = useRef<HTMLDivElement>(null);
  const over = useRef(false);
  const list = useId();
  const today = todayIn(use(Writing).zone);
  useEffect(() => {
    const field = input.current;
    field?.focus();
    field?.setSelectionRange(field.value.length, field.value.length);
  }, []);
  const save = (typed: string) => toSave(column, typed, people, today);
  const put = (value: string) => {
    setNow(value);
    setAt(undefined);
    setUnsure(false);
    onChange(save(value));
  };
  const finish = (key: Key, shift = false, value = now) => {
    if (over.current) return;
    over.current = true;
    onDone(save(value), key, shift);
  };

  const cancel = () => {
    over.current = true;
    onCancel();
  };

  const options = optionsOf(column, people);
  const typing = column.several ? parts(now).typing : now;
  // a cell that is opened as it is shows all there is to choose from
  const found = options && (now === text && !column.several ? options : matching(options, typing));
  const take = (name: string) => {
    if (column.several) put(toggled(now, name));
    else finish("Enter", false, name);
    input.current?.focus();
  };
  // choose takes what arrows have led to, or what is typed where that can mean one option only.
  const choose = (key: Key, shift: boolean) => {
    const marked = at === undefined ? undefined : found?.[at];
    const only = marked ?? meant(options ?? [], typing);
    if (!only && typing.trim() !== "" && (found?.length ?? 0) > 1) return setUnsure(true);
    if (column.several && only && key === "Enter") return put(toggled(now, only.name));
    if (only && !column.several) return finish(key, shift, only.name);
    finish(key, shift);
  };

  const isDay = column.type === "date" || column.type === "date-time";
  const move = (key: string): boolean => {
    const down = { ArrowDown: 1, ArrowUp: -1, PageDown: 30, PageUp: -30 }[key];
    if (down === undefined) return false;
    if (found && found.length > 0 && Math.abs(down) === 1)
      setAt(((at ?? (down > 0 ? -1 : 0)) + down + found.length) % found.length);
    else if (isDay) {
      const { day, clock } = dayOf(now, today);
      put(moment(now.trim() === "" ? day : plusDays(day, down), clock));
    } else return false;
    return true;
  };

  const isLong = column.type === "text";
  const lines = now.split("\n");
  const wide = isLong && (lines.length > 1 || now.length > 24);
  const drawn = lines.reduce((n, line) => n + Math.max(1, Math.ceil(line.length / perLine)), 0);
  useLayoutEffect(() => {
    const field = input.current;
    const grid = field?.closest(".grid");
    if (!wide || !field || !grid) return;
    const beyond = field.getBoundingClientRect().right > grid.getBoundingClientRect().right;
    if (beyond) field.classList.add("cell-editor-leftwards");
  }, [wide]);
  const common = {
    ref: (field: HTMLInputElement | HTMLTextAreaElement | null) => {
      input.current = field;
    },
    "aria-label": column.name,
    value: now,
    autoComplete: "off",
    onBlur: (e: React.FocusEvent) => {
      if (document.activeElement === e.target) return; // another window is in front, as to choose a file
      if (!panel.current?.contains(e.relatedTarget)) finish("");
    },
    onChange: (e: React.ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => put(e.target.value),
    onKeyDown: (e: React.KeyboardEvent) => {
      e.stopPropagation();
      if (e.nativeEvent.isComposing) return; // an input method is still at work
      if (e.key === "Enter" && e.altKey && e.target instanceof HTMLTextAreaElement) {
        e.preventDefault(); // another line within the cell
        const { selectionStart: from, selectionEnd: to } = e.target;
        e.target.setRangeText("\n", from, to, "end");
        put(e.target.value);
      } else if (e.key === "Tab" && !e.shiftKey && (column.type === "link" || column.type === "file")) {
        return; // on to the words, or to the file
      } else if (e.key === "Enter" || e.key === "Tab") {
        e.preventDefault();
        choose(e.key, e.shiftKey);
      } else if (e.key === "Escape") {
        e.preventDefault();
        cancel();
      } else if (move(e.key)) e.preventDefault();
    },
  };
  const field = isLong ? (
    <textarea
      {...common}
      rows={lines.length}
      className={wide ? "cell-editor cell-editor-lines" : "cell-editor"}
      style={wide ? { height: `${Math.min(drawn, mostLines) * 20 + 10}px` } : undefined}
    />
  ) : (
    <input
      {...common}
      type="text"
      className="cell-editor"
      placeholder={placeholders()[column.type]}
      {...(options && {
        role: "combobox",
        "aria-expanded": true,
        "aria-controls": list,
        "aria-activedescendant": at === undefined ? undefined : `${list}-${at}`,
      })}
    />
  );
  const helps = found ? (
    <OptionList
      id={list}
      options={found}
      at={at}
      chosen={column.several ? parts(now).chosen : undefined}
      unsure={unsure}
      name={column.name}
      onTake={take}
    />
  ) : isDay ? (
    <DayPicker
      text={now}
      today={today}
      withTime={column.type === "date-time"}
      onPick={(value, whole) => (whole ? finish("Enter", false, value) : put(value))}
    />
  ) : column.type === "link" ? (
    <LinkWords text={now} onChange={put} onDone={finish} />
  ) : column.type === "file" ? (
    <FilePicker column={column} text={now} onPick={(value) => finish("Enter", false, value)} />
  ) : column.type === "number" && column.format === "rating" ? (
    <Rating text={now} onPick={(value) => finish("Enter", false, value)} />
  ) : column.type === "number" && hintOf(column) ? (
    <span className="quiet">{hintOf(column)}</span>
  ) : null;
  if (!helps) return field;
  const content = (
    <div
      ref={panel}
      className="cell-panel"
      onMouseDown={(e) => {
        e.stopPropagation();
        if (!(e.target as Element).closest("input, label, .ant-select")) e.preventDefault(); // the field keeps the focus
      }}
      onDoubleClick={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Escape") cancel();
      }}
      onBlur={(e) => {
        const to = e.relatedTarget;
        if (to !== input.current && to !== null && !panel.current?.contains(to)) finish("");
      }}
    >
      {helps}
    </div>
  );
  return (
    <Popover open content={content} placement="bottomLeft" arrow={false} classNames={{ root: "cell-panel-over" }}>
      {field}
    </Popover>
  );
}

const placeholders = (): Record<string, string | undefined> => ({
  date: t`such as 4 Dec, friday, +3`,
  "date-time": t`such as friday 14:30`,
  link: "https://",
});

// hintOf says how a number of a column is typed.
function hintOf(column: Column): string | undefined {
  switch (column.format) {
    case undefined:
    case "":
    case "plain":
      return undefined;
    case "percent":
      return t`percent, such as 12.5 %`;
    case "duration":
      return t`hours and minutes, such as 36:00`;
  }
  return t`in ${column.format}`;
}
