import type { QueryClient } from "@tanstack/react-query";

/** What a merge or a reversal leaves as it is; plans are of no use any more and are made anew when asked for. */
const untouched = ["session", "map", "plan", "reversal-plan"];

/**
 * Lets everything that is on the screen be read again, after a merge, a decision or a reversal: as soon as what was
 * decided has left the screen, so that it is not read once more.
 */
export async function refreshAll(queries: QueryClient): Promise<void> {
  await new Promise((resolve) => setTimeout(resolve));
  queries.removeQueries({ queryKey: ["plan"], type: "inactive" });
  await queries.invalidateQueries({ predicate: (query) => !untouched.includes(String(query.queryKey[0])) });
}
