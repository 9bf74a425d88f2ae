import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { type Query, useQueryClient } from "@tanstack/react-query";
import { useCallback, useSyncExternalStore } from "react";
import { Refused } from "../api/client";
import { timeOfDay } from "./format";

/** True if asking again may help: the service could not be reached, or could not reach its database. */
const mayPass = (error: unknown) =>
  error instanceof Refused && (error.problem.status === 0 || error.problem.status >= 500);

/**
 * Why there is nothing to show, or null. What was read before is shown on while the service does not answer;
 * {@link StaleNotice} says so. Where the service says that there is no such thing, nothing is shown.
 */
export function failureOf({ data, error }: { data: unknown; error: Error | null }): Error | null {
  return error && (data === undefined || !mayPass(error)) ? error : null;
}

const isStale = (query: Query) =>
  query.isActive() && query.state.data !== undefined && mayPass(query.state.error);

/** Says over the page, once, since when what it shows may be out of date, and why. */
export function StaleNotice() {
  const queries = useQueryClient();
  const cache = queries.getQueryCache();
  const subscribe = useCallback((changed: () => void) => cache.subscribe(changed), [cache]);
  const said = useSyncExternalStore(subscribe, () => {
    const stale = cache.findAll({ predicate: isStale });
    if (stale.length === 0) return "";
    const since = Math.min(...stale.map((query) => query.state.dataUpdatedAt));
    const problem = stale[0]?.state.error as Refused;
    return JSON.stringify({ at: timeOfDay(new Date(since).toISOString()), why: problem.problem.title });
  });
  if (said === "") return null;
  const { at, why } = JSON.parse(said) as { at: string; why: string };
  return (
    <div className="note warning" role="status">
      <strong>
        <Trans>Last read at {at}; it may have changed.</Trans>
      </strong>{" "}
      {why}{" "}
      <Button
        size="compact-xs"
        variant="default"
        onClick={() => void queries.refetchQueries({ predicate: isStale })}
      >
        <Trans>Read again</Trans>
      </Button>
    </div>
  );
}
