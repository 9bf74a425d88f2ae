import "./language";
import "@fontsource-variable/source-sans-3";
import "@mantine/core/styles.css";
import "./styles.css";
import "./shell/shell.css";
import "./ui/tables.css";
import "./ui/bars.css";
import "./merge/compare.css";
import "./queue/queue.css";
import "./shell/finder.css";
import "./narrow.css";
import "./print.css";
import { i18n } from "@lingui/core";
import { I18nProvider } from "@lingui/react";
import { MantineProvider } from "@mantine/core";
import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { api, isSignedOut, Refused } from "./api/client";
import { theme } from "./theme";

/** Any call may be the first that finds the session ended. */
const noticeEnd = (error: unknown) => {
  if (isSignedOut(error) && !isSignedOut(queries.getQueryState(["session"])?.error))
    void queries.invalidateQueries({ queryKey: ["session"] });
};

const queries: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: noticeEnd }),
  mutationCache: new MutationCache({
    onError: (error, _variables, _context, mutation) => {
      if (mutation.options.mutationKey?.[0] !== "sign-in") noticeEnd(error);
    },
  }),
  // The service is on the same machine or network: a browser that takes itself for offline may well reach it.
  defaultOptions: {
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      // What the service refused it will refuse again; only a lost connection is worth another try.
      retry: (count, error) => count < 2 && error instanceof Refused && error.problem.status === 0,
    },
  },
});

// What the first page tells is asked for while the page is being put together.
if (window.location.pathname === "/")
  void queries.prefetchQuery({ queryKey: ["overview"], queryFn: api.overview });

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <I18nProvider i18n={i18n}>
      <MantineProvider theme={theme} defaultColorScheme="auto">
        <QueryClientProvider client={queries}>
          <BrowserRouter>
            <App />
          </BrowserRouter>
        </QueryClientProvider>
      </MantineProvider>
    </I18nProvider>
  </StrictMode>,
);
