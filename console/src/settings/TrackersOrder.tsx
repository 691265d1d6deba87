// The trackers in the order in which everybody sees them, to be put in another one.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask, type Tracker } from "../api/client";
import { OrderHandle } from "../parts/OrderHandle";
import { useTrackers } from "../parts/queries";
import { useOrder } from "../parts/useOrder";
import { useChange } from "./useChange";

export function TrackersOrder() {
  const queries = useQueryClient();
  const change = useChange();
  const all = useTrackers().data ?? [];
  const order = useOrder(all, (to) => {
    const moved = movedOne(all, to);
    if (!moved) return;
    queries.setQueryData(["trackers"], to);
    const before = to[to.indexOf(moved) - 1];
    change.mutate(
      {
        work: () =>
          ask(
            api.PATCH("/api/v1/trackers/{tracker}", {
              params: { path: { tracker: moved.id } },
              body: before ? { after: before.id } : { first: true },
            }),
          ),
        says: t`Moved tracker ${moved.name}`,
      },
      { onError: () => void queries.invalidateQueries({ queryKey: ["trackers"] }) },
    );
  });
  if (all.length < 2) return null;
  return (
    <section className="section" aria-label={t`Trackers`}>
      <h2>
        <Trans>Trackers</Trans>
      </h2>
      <p className="quiet">
        <Trans>Everybody sees them in this order. Drag to change it.</Trans>
      </p>
      <ul className="plain">
        {all.map((one, i) => {
          const { entry, handle } = order(i);
          return (
            <li key={one.id} className="tab-line" {...entry}>
              <OrderHandle label={t`Move ${one.name}`} {...handle} />{" "}
              <Link to={`/t/${one.id}/settings`}>{one.name}</Link>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** movedOne gives the one by whose move the first list becomes the second. */
export function movedOne(from: Tracker[], to: Tracker[]): Tracker | undefined {
  const without = (list: Tracker[], one: Tracker) => list.filter((t) => t !== one).map((t) => t.id);
  return to.find((one, i) => from[i] !== one && String(without(from, one)) === String(without(to, one)));
}
