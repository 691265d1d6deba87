// The tallies of a tracker, each as a picture beside its table.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { useBeginnings } from "../automation/Beginnings";
import { useMay } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useTracker } from "../parts/queries";
import { chartBeginnings } from "./beginnings";
import "../automation/automation.css";
import { TallyCard } from "./TallyCard";

export default function TalliesPage() {
  const { tracker = "" } = useParams();
  const may = useMay(tracker);
  const navigate = useNavigate();
  const found = useQuery({
    queryKey: ["tallies", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/tallies-now", { params: { path: { tracker } } })),
  });
  const here = useTracker(tracker);
  const { button, offers } = useBeginnings({
    keep: may.keep && here !== undefined,
    none: found.data && found.data.length === 0,
    create: t`New chart`,
    nothing: t`No charts yet. Choose how to begin:`,
    barred: t`No charts yet. An admin can create one.`,
    from: here ? chartBeginnings(here) : [],
    onChoose: (id) => void navigate(`/t/${tracker}/tallies/new?from=${id}`),
  });
  return (
    <div className="page">
      <header>
        <h1>
          <Trans>Charts</Trans>
        </h1>
        <span className="quiet">
          <Trans>figures by group, as the rows are now</Trans>
        </span>
        <span style={{ flex: 1 }} />
        {button}
      </header>
      {found.isError && <ProblemNote error={found.error} />}
      {offers}
      {found.data?.map((one) => (
        <TallyCard key={one.id} tracker={tracker} tally={one} drawnAt={found.dataUpdatedAt} edit={may.keep} />
      ))}
    </div>
  );
}
