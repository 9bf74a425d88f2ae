import type { QueryClient } from "@tanstack/react-query";

/** What a merge or a reversal leaves as it is; plans are of no use any more and are made anew when asked for. */
const untouched = ["session", "map", "plan", "reversal-plan"];

/** Lets everything that is on the screen be read again, after a merge or a reversal. */
export function refreshAll(queries: QueryClient): Promise<void> {
  queries.removeQueries({ queryKey: ["plan"], type: "inactive" });
  return queries.invalidateQueries({ predicate: (query) => !untouched.includes(String(query.queryKey[0])) });
}
