import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { Route, Routes, useLocation } from "react-router";
import { api, isSignedOut } from "./api/client";
import { EntryPage } from "./history/EntryPage";
import { HistoryPage } from "./history/HistoryPage";
import { ComparePage } from "./merge/ComparePage";
import { QueuePage } from "./queue/QueuePage";
import { RecordPage } from "./records/RecordPage";
import { RecordsPage } from "./records/RecordsPage";
import { SignInAgain } from "./session/SignInAgain";
import { SignInPage } from "./session/SignInPage";
import { Shell } from "./shell/Shell";
import { Empty } from "./ui/Empty";
import { ProblemNote } from "./ui/ProblemNote";
import { Reading } from "./ui/Reading";

// What brings charts or editors along is loaded only when it is looked at.
const overview = () => import("./overview/OverviewPage");
const OverviewPage = lazy(overview);
const RulesPage = lazy(() => import("./rules/RulesPage"));
const SettingsPage = lazy(() => import("./settings/SettingsPage"));

// The first page is on its way while it is asked who looks at it.
if (globalThis.location?.pathname === "/") void overview();

/**
 * The whole console: who is not signed in sees the sign-in page, everybody else the page of the address. A session that
 * ends is begun again over the page.
 */
export function App() {
  const location = useLocation();
  const session = useQuery({ queryKey: ["session"], queryFn: api.session, staleTime: 60_000 });
  // While it is asked again, what was answered last holds: nothing that is typed to sign in is taken away.
  const [signedOut, setSignedOut] = useState(false);
  if (!session.isPending && signedOut !== isSignedOut(session.error)) setSignedOut(!signedOut);
  const map = useQuery({
    queryKey: ["map"],
    queryFn: api.map,
    enabled: !signedOut,
    staleTime: Number.POSITIVE_INFINITY,
  });

  if (location.pathname === "/sign-in" || (signedOut && !session.data)) return <SignInPage />;
  // What was read once is good enough while the service cannot be reached.
  const failed = (session.data ? null : session.error) ?? (map.data ? null : map.error);
  if (failed) {
    return (
      <main className="page">
        <ProblemNote error={failed} retry={() => (session.error ? session.refetch() : map.refetch())} />
      </main>
    );
  }
  if (!session.data || !map.data)
    return (
      <main className="page">
        <Reading what={t`the console`} rows={10} />
      </main>
    );

  return (
    <Shell session={session.data} map={map.data}>
      {signedOut && <SignInAgain session={session.data} />}
      <Suspense fallback={<Reading what={t`the page`} />}>
        <Routes>
          <Route path="/" element={<OverviewPage map={map.data} session={session.data} />} />
          <Route path="/queue" element={<QueuePage map={map.data} session={session.data} />} />
          <Route path="/records/:type" element={<RecordsPage map={map.data} />} />
          <Route path="/records/:type/:key" element={<RecordPage map={map.data} session={session.data} />} />
          <Route path="/compare/:type" element={<ComparePage map={map.data} session={session.data} />} />
          <Route path="/history" element={<HistoryPage map={map.data} />} />
          <Route path="/history/:number" element={<EntryPage map={map.data} session={session.data} />} />
          {["/rules", "/rules/:type"].map((path) => (
            <Route key={path} path={path} element={<RulesPage map={map.data} session={session.data} />} />
          ))}
          <Route path="/settings/:section?" element={<SettingsPage session={session.data} />} />
          <Route
            path="*"
            element={
              <Empty title={t`There is no such page`}>
                <Trans>The address leads nowhere. Use the side bar to go on.</Trans>
              </Empty>
            }
          />
        </Routes>
      </Suspense>
    </Shell>
  );
}
