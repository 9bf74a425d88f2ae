import type { QueryClient, QueryFilters } from "@tanstack/react-query";

/** What a merge or a reversal leaves as it is; plans are of no use any more and are made anew when asked for. */
const untouched = ["session", "map", "plan", "reversal-plan"];

/**
 * Lets everything that is on the screen be read again, after a merge, a decision or a reversal: as soon as what was
 * decided has left the screen, so that it is not read once more.
 */
export async function refreshAll(queries: QueryClient): Promise<void> {
  await new Promise((resolve) => setTimeout(resolve));
  queries.removeQueries({ queryKey: ["plan"], type: "inactive" });
  await refresh(queries, { predicate: (query) => !untouched.includes(String(query.queryKey[0])) });
}

/**
 * Lets something be read again after it was changed. What is read for the first time just now is asked for once more,
 * too, which an invalidation alone leaves out: its answer may be from before the change.
 */
export async function refresh(queries: QueryClient, which: QueryFilters): Promise<void> {
  for (const query of queries.getQueryCache().findAll({ ...which, fetchStatus: "fetching" })) {
    if (query.state.data !== undefined) continue;
    if (query.isActive()) void query.cancel({ silent: true });
    else
      void query.fetch().then(
        () => query.invalidate(),
        () => {},
      );
  }
  await queries.invalidateQueries(which);
}
