// What stands around every page: the workspace's pages above, the tabs and the automation of
// the tracker in use at the left, and a palette that leads anywhere.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { lazy, Suspense, useEffect, useState, useSyncExternalStore } from "react";
import { NavLink, Outlet, useLocation, useNavigate } from "react-router";
import { type Tab, type Tracker } from "../api/client";
import { live } from "../api/live";
import { Writing } from "../parts/writing";
import { mayImport } from "../parts/may";
import { ProblemNote } from "../parts/ProblemNote";
import { useFresh, useSession, useTrackers } from "../parts/queries";
import { automation, inUse, titleOf, workspacePlaces } from "./places";
import { SignedIn } from "./SignedIn";
import { useRegions } from "./useRegions";
import { dragged } from "../tracker/dragged";
import { resume } from "../tracker/editQueues";
import "./frame.css";

const Palette = lazy(() => import("./Palette"));
const KeysDialog = lazy(() => import("./KeysDialog"));

const none: Tracker[] = [];

const unknown = {};

export function Frame() {
  const session = useSession();
  const trackers = useTrackers();
  const { pathname } = useLocation();
  useFresh();
  const [menu, setMenu] = useState(false); // on a narrow window, the places to go to
  const [palette, setPalette] = useState(false);
  const [keys, setKeys] = useState(false);
  useRegions();
  const me = session.data?.person.id;
  useEffect(() => {
    if (me !== undefined) resume(me);
  }, [me]);
  useEffect(() => {
    const opens = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "k") {
        e.preventDefault();
        setPalette(true);
      }
      const typing = (e.target as Element | null)?.closest?.("input, textarea, select, [contenteditable], [role=grid]");
      if ((e.key === "?" && !typing) || ((e.ctrlKey || e.metaKey) && e.key === "/")) {
        e.preventDefault();
        setKeys(true);
      }
    };
    window.addEventListener("keydown", opens);
    return () => window.removeEventListener("keydown", opens);
  }, []);
  if (session.isPending)
    return (
      <div className="page quiet">
        <Trans>Loading…</Trans>
      </div>
    );
  if (!session.data) {
    return (
      <div className="page">
        <ProblemNote error={session.error} />
      </div>
    );
  }
  const all = trackers.data ?? none;
  const { person } = session.data;
  const places = workspacePlaces(person.access, mayImport(person.access, trackers.data));
  const tracker = inUse(pathname, all);
  return (
    <div className="shell">
      <title>{titleOf(pathname, all)}</title>
      <a className="skip" href="#page">
        <Trans>Skip to the page</Trans>
      </a>
      <header className="top">
        <Button
          size="small"
          className="top-menu"
          aria-expanded={menu}
          aria-controls="side"
          onClick={() => setMenu(!menu)}
        >
          {t`Menu`}
        </Button>
        <span className="wordmark">Kavlo</span>
        <nav className="top-places" aria-label={t`Workspace`}>
          {places.map((p) => (
            <NavLink key={p.to} to={p.to} end className="top-link">
              {p.name}
            </NavLink>
          ))}
        </nav>
        <Button className="top-find" size="small" onClick={() => setPalette(true)} aria-keyshortcuts="Control+K">
          <Trans>
            Go to… <kbd>Ctrl K</kbd>
          </Trans>
        </Button>
        <Button className="top-keys" type="text" size="small" onClick={() => setKeys(true)} aria-keyshortcuts="?">
          {t`Keys`}
        </Button>
        <SignedIn name={person.name} />
      </header>
      <nav
        id="side"
        className={menu ? "side side-open" : "side"}
        aria-label={t`Tracker`}
        onClick={(e) => e.target instanceof Element && e.target.closest("a") && setMenu(false)}
      >
        <div className="side-places">
          {places.map((p) => (
            <SideLink key={p.to} to={p.to} end>
              {p.name}
            </SideLink>
          ))}
          <SignedIn name={person.name} />
        </div>
        {tracker ? (
          <TrackerPlaces tracker={tracker} all={all} />
        ) : (
          <p className="side-none quiet">
            <Trans>No trackers yet.</Trans>
          </p>
        )}
      </nav>
      <main id="page">
        <Away />
        <Writing value={tracker ?? unknown}>
          <Outlet />
        </Writing>
      </main>
      {keys && (
        <Suspense fallback={null}>
          <KeysDialog onClose={() => setKeys(false)} />
        </Suspense>
      )}
      {palette && (
        <Suspense fallback={null}>
          <Palette trackers={all} current={tracker} places={places} onClose={() => setPalette(false)} />
        </Suspense>
      )}
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
      <Trans>
        The service does not answer. What others change is not shown until it does; what you type is kept, and what you
        saved is sent then.
      </Trans>
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

function TrackerPlaces({ tracker, all }: { tracker: Tracker; all: Tracker[] }) {
  const navigate = useNavigate();
  return (
    <>
      {all.length > 1 ? (
        <Select
          className="side-tracker"
          aria-label={t`Tracker`}
          variant="borderless"
          value={tracker.id}
          options={all.map((one) => ({ value: one.id, label: one.name }))}
          onChange={(id) => {
            const to = all.find((one) => one.id === id);
            void navigate(`/t/${id}/${to?.tabs[0]?.id ?? "rules"}`);
          }}
        />
      ) : (
        <h2 className="side-title">{tracker.name}</h2>
      )}
      <section className="side-tabs" aria-label={t`Tabs`}>
        {tracker.tabs.map((tab) => (
          <TabLink key={tab.id} tracker={tracker} tab={tab} />
        ))}
      </section>
      <section className="side-more" aria-label={t`Automation`}>
        {automation.map((p) => (
          <SideLink key={p.at} to={`/t/${tracker.id}/${p.at}`}>
            {p.name}
          </SideLink>
        ))}
      </section>
    </>
  );
}

// TabLink leads to a tab, and takes rows that are dragged onto it.
function TabLink({ tracker, tab }: { tracker: Tracker; tab: Tab }) {
  const [over, setOver] = useState(false);
  const takes = () => !tab.read_only && dragged.goes(tracker.id, tab.id);
  return (
    <div
      className={over ? "side-drop" : undefined}
      onDragOver={(e) => {
        if (!takes()) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        setOver(false);
        if (!takes()) return;
        e.preventDefault();
        dragged.now()?.moveTo(tab.id);
      }}
    >
      <SideLink to={`/t/${tracker.id}/${tab.id}`}>
        <TabCount tab={tab} />
      </SideLink>
    </div>
  );
}

function TabCount({ tab }: { tab: Tab }) {
  return (
    <>
      <span className="side-name">{tab.name}</span>
      {tab.overdue > 0 && (
        <span className="side-late" title={t`${tab.overdue} overdue`} aria-label={t`${tab.overdue} overdue`}>
          <Trans>{tab.overdue} overdue</Trans>
        </span>
      )}
      <span className="side-count" aria-label={t`${tab.rows} rows`}>
        {tab.rows}
      </span>
    </>
  );
}
