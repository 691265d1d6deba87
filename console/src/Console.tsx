// The console as a whole: theme, query cache and the pages' addresses. Pages
// are loaded when they are opened.
import { Trans } from "@lingui/react/macro";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, Suspense, useEffect } from "react";
import { BrowserRouter, Navigate, Route, Routes, useLocation, useNavigate } from "react-router";
import { ProblemError, type Session } from "./api/client";
import { AwayPage } from "./frame/AwayPage";
import { Boundary } from "./frame/Boundary";
import { BrokenPage } from "./frame/BrokenPage";
import { Frame } from "./frame/Frame";
import { cameFrom } from "./sign-in/cameFrom";
import { SignInPage } from "./sign-in/SignInPage";
import { useCalm, useDark } from "./parts/useMedia";
import { cssVariables, dark, light, themeOf } from "./theme";

const TodayPage = lazy(() => import("./today/TodayPage"));
const TrackerPage = lazy(() => import("./tracker/TrackerPage"));
const RulesPage = lazy(() => import("./rules/RulesPage"));
const RulePage = lazy(() => import("./rules/RulePage"));
const RemindersPage = lazy(() => import("./reminders/RemindersPage"));
const ReminderPage = lazy(() => import("./reminders/ReminderPage"));
const StartPage = lazy(() => import("./start/StartPage"));
const SettingsPage = lazy(() => import("./settings/SettingsPage"));
const WorkspacePage = lazy(() => import("./settings/WorkspacePage"));
const PeoplePage = lazy(() => import("./people/PeoplePage"));
const ListsPage = lazy(() => import("./lists/ListsPage"));
const ListPage = lazy(() => import("./lists/ListPage"));
const OutboundPage = lazy(() => import("./outbound/OutboundPage"));
const PagesPage = lazy(() => import("./pages/PagesPage"));
const RowPage = lazy(() => import("./pages/RowPage"));
const TalliesPage = lazy(() => import("./tallies/TalliesPage"));
const FormsPage = lazy(() => import("./forms/FormsPage"));
const LinkedFormPage = lazy(() => import("./forms/LinkedFormPage"));
const ChartPage = lazy(() => import("./tallies/ChartPage"));
const FormEditPage = lazy(() => import("./forms/FormEditPage"));
const PatternPage = lazy(() => import("./pages/PatternPage"));
const TidyPage = lazy(() => import("./tidy/TidyPage"));
const RunsPage = lazy(() => import("./runs/RunsPage"));
const RunPage = lazy(() => import("./runs/RunPage"));
const ImportPage = lazy(() => import("./files/ImportPage"));
const MailPage = lazy(() => import("./mail/MailPage"));

// The pages within the frame, by address.
const pages: [string, React.ComponentType][] = [
  ["", TodayPage],
  ["import", ImportPage],
  ["mail", MailPage],
  ["t/:tracker/rules", RulesPage],
  ["t/:tracker/rules/:rule", RulePage],
  ["t/:tracker/reminders", RemindersPage],
  ["t/:tracker/reminders/:kind/:definition", ReminderPage],
  ["workspace", WorkspacePage],
  ["people", PeoplePage],
  ["t/:tracker/start", StartPage],
  ["t/:tracker/settings", SettingsPage],
  ["t/:tracker/lists", ListsPage],
  ["t/:tracker/lists/:kind/:definition", ListPage],
  ["t/:tracker/outbound", OutboundPage],
  ["t/:tracker/pages", PagesPage],
  ["t/:tracker/pages/:pattern/:row", RowPage],
  ["t/:tracker/tallies", TalliesPage],
  ["t/:tracker/forms", FormsPage],
  ["t/:tracker/forms/:form", FormsPage],
  ["t/:tracker/tallies/:definition", ChartPage],
  ["t/:tracker/forms/:form/edit", FormEditPage],
  ["t/:tracker/patterns/:pattern", PatternPage],
  ["t/:tracker/tidy", TidyPage],
  ["t/:tracker/runs", RunsPage],
  ["t/:tracker/runs/:run", RunPage],
  ["t/:tracker/:tab", TrackerPage],
];

function Pages() {
  const { pathname } = useLocation();
  return (
    <Boundary at={pathname} instead={() => <AwayPage />}>
      <Suspense
        fallback={
          <div className="page quiet">
            <Trans>Loading…</Trans>
          </div>
        }
      >
        <Routes>
          <Route path="/sign-in" element={<SignInPage />} />
          <Route path="/form" element={<LinkedFormPage />} />
          <Route path="/" element={<Frame />}>
            {pages.map(([path, Page]) => (
              <Route key={path} path={path} element={<Framed page={<Page />} />} />
            ))}
            <Route path="*" element={<Navigate to="/" replace />} />
          </Route>
        </Routes>
      </Suspense>
    </Boundary>
  );
}

// Framed keeps the frame where its page is loaded or goes wrong.
function Framed({ page }: { page: React.ReactNode }) {
  const { pathname } = useLocation();
  return (
    <Boundary at={pathname} instead={(error) => <BrokenPage error={error} />}>
      <Suspense
        fallback={
          <div className="page quiet">
            <Trans>Loading…</Trans>
          </div>
        }
      >
        {page}
      </Suspense>
    </Boundary>
  );
}

// isAway reports whether the service, rather than the question, is at fault.
function isAway(err: unknown): boolean {
  const status = err instanceof ProblemError ? err.problem.status : 0;
  return status === 0 || status >= 500;
}

export function Console() {
  const isDark = useDark();
  const isCalm = useCalm();
  const palette = isDark ? dark : light;
  useEffect(() => {
    for (const [name, value] of Object.entries(cssVariables(palette))) {
      document.documentElement.style.setProperty(name, value);
    }
  }, [palette]);
  return (
    <ConfigProvider theme={themeOf(palette, { isDark, isCalm })} modal={{ mask: { closable: false } }}>
      <AntApp component={false}>
        <BrowserRouter>
          <Queried>
            <Pages />
          </Queried>
        </BrowserRouter>
      </AntApp>
    </ConfigProvider>
  );
}

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: false,
      staleTime: 5_000,
      // what failed because the service was away comes once it is back
      refetchInterval: (q) => (q.state.status === "error" && isAway(q.state.error) ? 3_000 : false),
    },
  },
});

// Queried gives pages what they ask the service by. Whoever is signed in no more comes to
// the sign-in page.
function Queried({ children }: { children: React.ReactNode }) {
  const navigate = useNavigate();
  useEffect(
    () =>
      queries.getQueryCache().subscribe((event) => {
        if (event.type !== "updated" || event.action.type !== "error") return;
        const { error } = event.action;
        if (!(error instanceof ProblemError) || error.problem.status !== 401) return;
        const session = queries.getQueryData<Session>(["session"]);
        const { pathname, search } = window.location;
        if (pathname === "/sign-in") return; // whose address may hold a link's secret
        if (session) cameFrom({ person: session.person.id, path: pathname + search });
        void navigate("/sign-in");
      }),
    [navigate],
  );
  return <QueryClientProvider client={queries}>{children}</QueryClientProvider>;
}
