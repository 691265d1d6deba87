// What an entry of a list is dragged by, or moved with Alt and an arrow key.
import { t } from "@lingui/core/macro";
import type { ComponentProps } from "react";
import "./order.css";

type Props = { label: string } & Pick<
  ComponentProps<"button">,
  "draggable" | "onDragStart" | "onDragEnd" | "onKeyDown"
>;

export function OrderHandle({ label, ...handle }: Props) {
  return (
    <button
      type="button"
      className="order-handle"
      aria-label={label}
      title={t`Drag, or Alt and an arrow key`}
      {...handle}
    >
      <svg viewBox="0 0 10 14" width="10" height="14" aria-hidden="true">
        {[2, 7, 12].flatMap((y) => [2.5, 7.5].map((x) => <circle key={`${x} ${y}`} cx={x} cy={y} r="1.2" />))}
      </svg>
    </button>
  );
}
