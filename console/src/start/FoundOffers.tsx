// Suggestions from what the rows hold: a key, a running total, values to tidy up.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueries, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link } from "react-router";
import { api, ask, type ChangeSet, type Column, type Tab, type Tracker } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { useChange } from "../settings/useChange";
import { keyColumn, runningTotal } from "./found";

const looked = 5000; // rows of a tab that are looked at

export function FoundOffers({ tracker, keep }: { tracker: Tracker; keep: boolean }) {
  const tabs = tracker.tabs.filter((one) => one.rows > 0);
  const rows = useQueries({
    queries: tabs.map((tab) => ({
      queryKey: ["found", tracker.id, tab.id],
      queryFn: () =>
        ask(
          api.GET("/api/v1/trackers/{tracker}/tabs/{tab}/rows", {
            params: { path: { tracker: tracker.id, tab: tab.id }, query: { limit: looked } },
          }),
        ),
    })),
  });
  const tidy = useQuery({
    queryKey: ["tidy", tracker.id],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/tidy", { params: { path: { tracker: tracker.id } } })),
  });
  const untidy = tidy.data?.reduce((n, f) => n + f.count, 0) ?? 0;
  return (
    <>
      {untidy > 0 && (
        <section className="definition section" aria-label={t`Tidy up`}>
          <div>
            <h2>
              <Trans>Tidy up {plural(untidy, { one: "# cell", other: "# cells" })}</Trans>
            </h2>
            <p>
              <Trans>
                {[...new Set(tidy.data?.map((f) => t`${f.column} in ${f.tab}`))].slice(0, 4).join(", ")}: values that
                are odd, missing or spelt in several ways. Each fix is shown before it is made.
              </Trans>
            </p>
          </div>
          <div className="definition-acts">
            <Link to={`/t/${tracker.id}/tidy`}>
              <Trans>Look at them</Trans>
            </Link>
          </div>
        </section>
      )}
      {tabs.map((tab, i) => {
        const all = rows[i]?.data;
        if (!all || all.total > all.rows.length) return null; // of a part nothing is certain
        const key = keyColumn(tab, all.rows);
        const running = runningTotal(tab, all.rows);
        return (
          <div key={tab.id}>
            {key && (
              <ColumnOffer
                tracker={tracker}
                tab={tab}
                column={key}
                keep={keep}
                title={t`Know the rows of ${tab.name} by ${key.name}`}
                says={t`All ${all.total} rows have one, each another. A file or list that is imported again then updates rows instead of doubling them, and nobody can enter one twice.`}
                body={{ definition: { unique: true } }}
              />
            )}
            {running && (
              <ColumnOffer
                tracker={tracker}
                tab={tab}
                column={running.total}
                keep={keep}
                title={t`Compute ${running.total.name} in ${tab.name}`}
                says={t`It is the running total of ${running.of.name} in every row. Computed, it stays right when rows change.`}
                body={{ definition: { type: "computed", clause: running.clause } }}
              />
            )}
          </div>
        );
      })}
    </>
  );
}

type OfferProps = {
  tracker: Tracker;
  tab: Tab;
  column: Column;
  keep: boolean;
  title: string;
  says: string;
  body: { definition: Record<string, unknown> };
};

function ColumnOffer({ tracker, tab, column, keep, title, says, body }: OfferProps) {
  const change = useChange();
  const put = (preview: boolean): Promise<ChangeSet> =>
    ask(
      api.PATCH("/api/v1/trackers/{tracker}/tabs/{tab}/columns/{column}", {
        params: {
          path: { tracker: tracker.id, tab: tab.id, column: column.id },
          query: preview ? { preview: "yes" } : {},
        },
        body,
      }),
    );
  const look = useQuery({
    queryKey: ["offer", tracker.id, column.id, body],
    queryFn: () => put(true),
    enabled: keep,
    retry: false,
  });
  return (
    <section className="definition section" aria-label={title}>
      <div>
        <h2>{title}</h2>
        <p>{says}</p>
        {look.isError && <ProblemNote error={look.error} />}
      </div>
      {keep && (
        <div className="definition-acts">
          <Button
            type="primary"
            size="small"
            loading={change.isPending}
            disabled={look.isError}
            aria-label={t`Set up ${title}`}
            onClick={() => change.mutate({ work: () => put(false), says: title })}
          >
            {t`Set up`}
          </Button>
        </div>
      )}
    </section>
  );
}
