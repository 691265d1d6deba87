// Lists kept elsewhere and the tabs they are kept in step with: conflicts that
// wait for a person, what each sync would do to both sides, and its run.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { Conflicts } from "./Conflicts";
import { SyncCard } from "./SyncCard";
import "./lists.css";

export default function ListsPage() {
  const { tracker = "" } = useParams();
  const path = { params: { path: { tracker } } };
  const [open, setOpen] = useState<string>();
  const syncs = useQuery({
    queryKey: ["syncs", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/syncs", path)),
  });
  const lists = useQuery({
    queryKey: ["lists", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/lists", path)),
  });
  const held = useQuery({
    queryKey: ["conflicts", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/conflicts", path)),
  });
  const failed = [syncs, lists, held].find((q) => q.isError);
  return (
    <div className="page">
      <header>
        <h1>Lists</h1>
        <span className="quiet">records kept elsewhere, and the tabs that are kept in step with them</span>
      </header>
      {failed && <ProblemNote error={failed.error} />}
      {held.data && <Conflicts tracker={tracker} held={held.data} />}
      <section className="section">
        <h2>Syncs</h2>
        {syncs.data?.length === 0 && (
          <p className="quiet">No tab is kept in step with a list yet: lists and syncs come with the setup file.</p>
        )}
        {syncs.data?.map((s) => (
          <SyncCard
            key={s.id}
            tracker={tracker}
            sync={s}
            list={lists.data?.find((l) => l.name === s.body.list)}
            open={open === s.id}
            onOpen={(is) => setOpen(is ? s.id : undefined)}
          />
        ))}
      </section>
    </div>
  );
}
