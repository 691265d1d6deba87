// The tallies of a tracker, each as a picture beside its table.
import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { TallyCard } from "./TallyCard";

export default function TalliesPage() {
  const { tracker = "" } = useParams();
  const found = useQuery({
    queryKey: ["tallies", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/tallies-now", { params: { path: { tracker } } })),
  });
  return (
    <div className="page">
      <header>
        <h1>Tallies</h1>
        <span className="quiet">figures by group, as the rows are now</span>
      </header>
      {found.isError && <ProblemNote error={found.error} />}
      {found.data?.length === 0 && (
        <p className="quiet">
          No tally is set up yet. A keeper adds one to the setup, under <code>tallies</code>.
        </p>
      )}
      {found.data?.map((t) => (
        <TallyCard key={t.id} tracker={tracker} tally={t} drawnAt={found.dataUpdatedAt} />
      ))}
    </div>
  );
}

// TodayTallies are those of a tracker that stand on the Today page.
export function TodayTallies({ tracker }: { tracker: string }) {
  const found = useQuery({
    queryKey: ["tallies", tracker, "today"],
    queryFn: () =>
      ask(
        api.GET("/api/v1/trackers/{tracker}/tallies-now", {
          params: { path: { tracker }, query: { today: "yes" } },
        }),
      ),
  });
  return found.data?.map((t) => <TallyCard key={t.id} tracker={tracker} tally={t} drawnAt={found.dataUpdatedAt} />);
}
