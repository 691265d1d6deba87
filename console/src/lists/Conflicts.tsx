// The queue of conflicts: each field that both sides changed, as it was and as
// each side has it, settled one by one or all alike.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App, Button, Checkbox } from "antd";
import { useState } from "react";
import { api, ask, problemOf, type Conflict } from "../api/client";
import { useMay } from "../parts/may";
import { orBlank } from "../parts/text";
import { useWhen } from "../parts/queries";

type Side = "list" | "tab";

// What is said of each side, in whole sentences: another language orders their words otherwise.
const sides = {
  list: {
    keep: () => t`Keep list value`,
    keepOf: (row: string) => t`Keep list value of ${row}`,
    keepAll: (n: number) => t`Keep list values of ${n} selected`,
    kept: (n: number) =>
      t`${plural(n, { one: "# conflict", other: "# conflicts" })}: both sides have what the list had.`,
  },
  tab: {
    keep: () => t`Keep tab value`,
    keepOf: (row: string) => t`Keep tab value of ${row}`,
    keepAll: (n: number) => t`Keep tab values of ${n} selected`,
    kept: (n: number) =>
      t`${plural(n, { one: "# conflict", other: "# conflicts" })}: both sides have what the tab had.`,
  },
};

const idOf = (c: Conflict) => `${c.sync}/${c.key}`;

export function Conflicts({ tracker, held }: { tracker: string; held: Conflict[] }) {
  const when = useWhen();
  const may = useMay(tracker);
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const [marked, setMarked] = useState<Set<string>>(new Set());
  const settle = useMutation({
    mutationFn: async ({ which, take }: { which: Conflict[]; take: Side }) => {
      for (const sync of new Set(which.map((c) => c.sync ?? ""))) {
        const keys = which.filter((c) => c.sync === sync).map((c) => c.key);
        await ask(
          api.POST("/api/v1/trackers/{tracker}/syncs/{definition}/settle", {
            params: { path: { tracker, definition: sync } },
            body: { keys, take },
          }),
        );
      }
    },
    onSuccess: (_, { which, take }) => {
      setMarked(new Set());
      notification.success({
        title: t`Resolved`,
        description: sides[take].kept(which.length),
      });
    },
    onError: (err) =>
      notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 }),
    onSettled: () => void queries.invalidateQueries(),
  });
  const chosen = held.filter((c) => marked.has(idOf(c)));
  const toggle = (c: Conflict, is: boolean) =>
    setMarked((before) => {
      const after = new Set(before);
      if (is) after.add(idOf(c));
      else after.delete(idOf(c));
      return after;
    });
  return (
    <section className="section">
      <h2>
        <Trans>Open conflicts</Trans>
      </h2>
      {held.length === 0 && (
        <p className="quiet">
          <Trans>None: wherever both sides changed something, they agree again.</Trans>
        </p>
      )}
      {held.map((c) => (
        <article key={idOf(c)} className="conflict" aria-label={t`Conflict on ${c.label || c.key}`}>
          <div className="conflict-head">
            {may.edit && held.length > 1 && (
              <Checkbox
                checked={marked.has(idOf(c))}
                onChange={(e) => toggle(c, e.target.checked)}
                aria-label={t`Mark ${c.label || c.key}`}
              />
            )}
            <strong>{c.label || c.key}</strong>
            <span className="quiet">
              <Trans>
                {c.key}, {c.sync}
              </Trans>
              {c.since && t`, since ${when(c.since, tracker)}`}
            </span>
          </div>
          <table className="conflict-fields stacked">
            <thead>
              <tr>
                <th scope="col">
                  <Trans>Field</Trans>
                </th>
                <th scope="col">
                  <Trans>Before</Trans>
                </th>
                <th scope="col">
                  <Trans>The list has</Trans>
                </th>
                <th scope="col">
                  <Trans>The tab has</Trans>
                </th>
              </tr>
            </thead>
            <tbody>
              {c.fields.map((f) => (
                <tr key={f.column}>
                  <th scope="row">{f.column}</th>
                  <td className="quiet" data-label={t`Before`}>
                    {orBlank(f.before)}
                  </td>
                  <td data-label={t`The list has`}>
                    {c.lost === "list" ? (
                      <em>
                        <Trans>removed it</Trans>
                      </em>
                    ) : (
                      orBlank(f.list)
                    )}
                  </td>
                  <td data-label={t`The tab has`}>
                    {c.lost === "tab" ? (
                      <em>
                        <Trans>removed it</Trans>
                      </em>
                    ) : (
                      orBlank(f.tab)
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
            {may.edit && (
              <tfoot>
                <tr>
                  <td colSpan={2} />
                  {(["list", "tab"] as const).map((take) => (
                    <td key={take}>
                      <Button
                        size="small"
                        disabled={settle.isPending}
                        onClick={() => settle.mutate({ which: [c], take })}
                        aria-label={sides[take].keepOf(c.label || c.key)}
                      >
                        {sides[take].keep()}
                      </Button>
                    </td>
                  ))}
                </tr>
              </tfoot>
            )}
          </table>
        </article>
      ))}
      {may.edit && held.length > 1 && (
        <div className="conflict-all">
          <Button
            type="link"
            size="small"
            onClick={() => setMarked(chosen.length === held.length ? new Set() : new Set(held.map(idOf)))}
          >
            {chosen.length === held.length ? t`Select none` : t`Select all`}
          </Button>
          {(["list", "tab"] as const).map((take) => (
            <Button
              key={take}
              size="small"
              disabled={chosen.length === 0 || settle.isPending}
              onClick={() => settle.mutate({ which: chosen, take })}
            >
              {sides[take].keepAll(chosen.length)}
            </Button>
          ))}
        </div>
      )}
    </section>
  );
}
