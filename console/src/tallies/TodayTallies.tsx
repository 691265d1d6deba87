// The charts of a tracker that stand on the Today page.
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { TallyCard } from "./TallyCard";

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
  return found.data?.map((one) => (
    <TallyCard key={one.id} tracker={tracker} tally={one} drawnAt={found.dataUpdatedAt} />
  ));
}
