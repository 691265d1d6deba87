// What stands around every page: where one can go, at the left, with the tabs
// of each tracker, their row counts and a mark for what is overdue.
import { useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useState, useSyncExternalStore } from "react";
import { NavLink, Outlet, useNavigate } from "react-router";
import { api, type Tab, type Tracker } from "../api/client";
import { live } from "../api/live";
import { JumpToPage } from "../pages/JumpToPage";
import { mayImport } from "./may";
import { useFresh, useSession, useTrackers } from "./queries";
import { ProblemNote } from "./ProblemNote";
import "./shell.css";

export function Shell() {
  const session = useSession();
  const trackers = useTrackers();
  useFresh();
  const [menu, setMenu] = useState(false); // on a narrow window, the pages to go to
  if (session.isPending) return <div className="page quiet">Loading…</div>;
  if (!session.data) {
    return (
      <div className="page">
        <ProblemNote error={session.error} />
      </div>
    );
  }
  return (
    <div className="shell">
      <a className="skip" href="#page">
        Skip to the page
      </a>
      <div className="narrow-bar">
        <Button size="small" aria-expanded={menu} aria-controls="side" onClick={() => setMenu(!menu)}>
          Menu
        </Button>
        <span className="wordmark">Kavlo</span>
      </div>
      <nav
        id="side"
        className={menu ? "side side-open" : "side"}
        aria-label="Pages"
        onClick={(e) => e.target instanceof Element && e.target.closest("a") && setMenu(false)}
      >
        <div className="wordmark">Kavlo</div>
        <SideLink to="/" end>
          Today
        </SideLink>
        <SideLink to="/mail">Mail</SideLink>
        <JumpToPage />
        {mayImport(session.data.person.access, trackers.data) && <SideLink to="/import">Import a file</SideLink>}
        {trackers.data?.map((t) => (
          <TrackerLinks key={t.id} tracker={t} />
        ))}
        <SignedIn name={session.data.person.name} />
      </nav>
      <main id="page">
        <Away />
        <Outlet />
      </main>
    </div>
  );
}

// Away tells that what others do is not shown for now, and asks anew who is signed
// in: where that is nobody any more, the sign-in page comes.
function Away() {
  const state = useSyncExternalStore(live.subscribe, live.state);
  const queries = useQueryClient();
  useEffect(() => {
    if (state === "live")
      void queries.invalidateQueries(); // what passed meanwhile
    else void queries.invalidateQueries({ queryKey: ["session"] });
  }, [state, queries]);
  if (state === "live") return null;
  return (
    <p className="away soon" role="status">
      The service does not answer. What others change is not shown until it does; what you type is kept.
    </p>
  );
}

function SideLink(props: { to: string; end?: boolean; children: React.ReactNode }) {
  return (
    <NavLink to={props.to} end={props.end} className="side-link">
      {props.children}
    </NavLink>
  );
}

function TrackerLinks({ tracker }: { tracker: Tracker }) {
  return (
    <section aria-label={tracker.name}>
      <h2 className="side-title">{tracker.name}</h2>
      {tracker.tabs.map((tab) => (
        <SideLink key={tab.id} to={`/t/${tracker.id}/${tab.id}`}>
          <TabCount tab={tab} />
        </SideLink>
      ))}
      <div className="side-more">
        <SideLink to={`/t/${tracker.id}/rules`}>Rules</SideLink>
        <SideLink to={`/t/${tracker.id}/lists`}>Lists</SideLink>
        <SideLink to={`/t/${tracker.id}/outbound`}>Files written</SideLink>
        <SideLink to={`/t/${tracker.id}/pages`}>Pages</SideLink>
        <SideLink to={`/t/${tracker.id}/tallies`}>Tallies</SideLink>
        <SideLink to={`/t/${tracker.id}/forms`}>Forms</SideLink>
        <SideLink to={`/t/${tracker.id}/tidy`}>Tidy up</SideLink>
        <SideLink to={`/t/${tracker.id}/runs`}>Runs</SideLink>
      </div>
    </section>
  );
}

function TabCount({ tab }: { tab: Tab }) {
  return (
    <>
      <span className="side-name">{tab.name}</span>
      {tab.overdue > 0 && (
        <span className="side-late" title={`${tab.overdue} overdue`} aria-label={`${tab.overdue} overdue`}>
          {tab.overdue} late
        </span>
      )}
      <span className="side-count" aria-label={`${tab.rows} rows`}>
        {tab.rows}
      </span>
    </>
  );
}

function SignedIn({ name }: { name: string }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const leave = async () => {
    await api.DELETE("/api/v1/session");
    queries.clear();
    await navigate("/sign-in");
  };
  return (
    <div className="side-person">
      <span>{name}</span>
      <Button type="link" size="small" onClick={() => void leave()}>
        Sign out
      </Button>
    </div>
  );
}
