import type { Query, QueryClient, QueryFilters } from "@tanstack/react-query";

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
 * Lets something be read again after it was changed. What is read for the first time just now may be answered as it was
 * before the change: that is shown, so that a page comes up although things change faster than a slow service answers,
 * and asked for once more.
 */
export async function refresh(queries: QueryClient, which: QueryFilters): Promise<void> {
  const shown: Promise<void>[] = [];
  for (const query of queries.getQueryCache().findAll({ ...which, fetchStatus: "fetching" })) {
    if (query.state.data !== undefined) continue;
    const done = readAfterwards(query);
    if (query.isActive()) shown.push(done);
  }
  await Promise.all([...shown, queries.invalidateQueries(which)]);
}

/** What is to be read once more after the answer that is under way, and when that is done. */
const waiting = new WeakMap<Query, Promise<void>>();

function readAfterwards(query: Query): Promise<void> {
  let done = waiting.get(query);
  if (!done) {
    const ended = () => {
      waiting.delete(query);
      query.invalidate();
      return query.isActive() ? query.fetch() : undefined;
    };
    done = query.fetch().then(ended, ended).then(noMatter, noMatter);
    waiting.set(query, done);
  }
  return done;
}

/** Whoever shows a reading tells how it failed. */
function noMatter(): void {}
