// The console as a whole: theme, query cache and the pages' addresses. Pages
// are loaded when they are opened.
import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, Suspense, useEffect, useMemo } from "react";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { ProblemError } from "./api/client";
import { AwayPage } from "./frame/AwayPage";
import { BrokenPage } from "./frame/BrokenPage";
import { Frame } from "./frame/Frame";
import { SignInPage } from "./sign-in/SignInPage";
import { useDark } from "./parts/useDark";
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

const loaded = (page: React.ReactNode) => (
  <Suspense fallback={<div className="page quiet">Loading…</div>}>{page}</Suspense>
);

const router = createBrowserRouter([
  { path: "/sign-in", element: <SignInPage /> },
  { path: "/form", element: loaded(<LinkedFormPage />) },
  {
    path: "/",
    element: <Frame />,
    errorElement: <AwayPage />,
    children: [
      {
        errorElement: <BrokenPage />,
        children: [
          { index: true, element: loaded(<TodayPage />) },
          { path: "import", element: loaded(<ImportPage />) },
          { path: "mail", element: loaded(<MailPage />) },
          { path: "t/:tracker/rules", element: loaded(<RulesPage />) },
          { path: "t/:tracker/rules/:rule", element: loaded(<RulePage />) },
          { path: "t/:tracker/reminders", element: loaded(<RemindersPage />) },
          { path: "t/:tracker/reminders/:kind/:definition", element: loaded(<ReminderPage />) },
          { path: "workspace", element: loaded(<WorkspacePage />) },
          { path: "people", element: loaded(<PeoplePage />) },
          { path: "t/:tracker/start", element: loaded(<StartPage />) },
          { path: "t/:tracker/settings", element: loaded(<SettingsPage />) },
          { path: "t/:tracker/lists", element: loaded(<ListsPage />) },
          { path: "t/:tracker/lists/:kind/:definition", element: loaded(<ListPage />) },
          { path: "t/:tracker/outbound", element: loaded(<OutboundPage />) },
          { path: "t/:tracker/pages", element: loaded(<PagesPage />) },
          { path: "t/:tracker/pages/:pattern/:row", element: loaded(<RowPage />) },
          { path: "t/:tracker/tallies", element: loaded(<TalliesPage />) },
          { path: "t/:tracker/forms", element: loaded(<FormsPage />) },
          { path: "t/:tracker/forms/:form", element: loaded(<FormsPage />) },
          { path: "t/:tracker/tallies/:definition", element: loaded(<ChartPage />) },
          { path: "t/:tracker/forms/:form/edit", element: loaded(<FormEditPage />) },
          { path: "t/:tracker/patterns/:pattern", element: loaded(<PatternPage />) },
          { path: "t/:tracker/tidy", element: loaded(<TidyPage />) },
          { path: "t/:tracker/runs", element: loaded(<RunsPage />) },
          { path: "t/:tracker/runs/:run", element: loaded(<RunPage />) },
          { path: "t/:tracker/:tab", element: loaded(<TrackerPage />) },
          { path: "*", element: <Navigate to="/" replace /> },
        ],
      },
    ],
  },
]);

// isAway reports whether the service, rather than the question, is at fault.
function isAway(err: unknown): boolean {
  const status = err instanceof ProblemError ? err.problem.status : 0;
  return status === 0 || status >= 500;
}

// signedOut sends whoever is signed in no more to the sign-in page.
function signedOut(err: Error) {
  if (err instanceof ProblemError && err.problem.status === 401) void router.navigate("/sign-in");
}

export function Console() {
  const isDark = useDark();
  const palette = isDark ? dark : light;
  const queries = useMemo(
    () =>
      new QueryClient({
        queryCache: new QueryCache({ onError: signedOut }),
        defaultOptions: {
          queries: {
            retry: false,
            staleTime: 5_000,
            // what failed because the service was away comes once it is back
            refetchInterval: (q) => (q.state.status === "error" && isAway(q.state.error) ? 3_000 : false),
          },
        },
      }),
    [],
  );
  useEffect(() => {
    for (const [name, value] of Object.entries(cssVariables(palette))) {
      document.documentElement.style.setProperty(name, value);
    }
  }, [palette]);
  return (
    <ConfigProvider theme={themeOf(palette, isDark)}>
      <AntApp component={false}>
        <QueryClientProvider client={queries}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  );
}
