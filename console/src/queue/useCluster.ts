import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import { api, type Cluster, Refused, type Session } from "../api/client";
import type { Comparison } from "../merge/choices";
import { useNotices } from "../ui/notices";
import { refresh, refreshAll } from "../ui/refresh";
import { failureOf } from "../ui/stale";
import { clusterAddress, queryOf, readFilter } from "./filter";
import { rememberSkipped, skippedHere } from "./skipped";

/** A claim lapses ten minutes after the last sign of life. */
const signOfLife = 3 * 60_000;

/**
 * The cluster that a comparison was opened for: it is claimed while it is looked at, its records and the suggested
 * master become the comparison, and when it is decided the next one of the same queue follows.
 */
export function useCluster(comparison: Comparison, session: Session, begin: (fresh: Comparison) => void) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const notices = useNotices();
  const id = comparison.cluster;
  const filter = readFilter(new URLSearchParams(comparison.queue));
  const detail = useQuery({
    queryKey: ["cluster", id],
    queryFn: () => api.cluster(id ?? 0),
    enabled: id !== null,
  });
  const found = id === null ? undefined : detail.data?.cluster;
  const taken = useRef<number | null>(null);
  const release = useCallback(
    async (cluster: number) => {
      // Where it fails the claim lapses.
      await api.release(cluster).catch(() => {});
      await refresh(queries, { queryKey: ["clusters"] });
    },
    [queries],
  );
  const claim = useMutation({
    mutationFn: async (cluster: Cluster) => {
      // Whoever left it while the database was locked does not want it any longer.
      const isLeft = () => taken.current !== cluster.id;
      if (isLeft()) return;
      await api.claim(cluster.id);
      if (isLeft()) await release(cluster.id);
    },
    // Another program, or a scan that reads, may keep the database from being written for a while.
    retry: (count, error) => count < 5 && error instanceof Refused && error.problem.status === 503,
    retryDelay: 1000,
    onSettled: (_data, _error, cluster) => refresh(queries, { queryKey: ["cluster", cluster.id] }),
  });

  useEffect(() => {
    if (!found || found.id !== id) return;
    if (taken.current !== id && found.state === "open" && session.role !== "viewer") {
      taken.current = id;
      claim.mutate(found);
    }
    if (comparison.keys.length === 0 && found.records.length > 1) {
      const keys = found.records.map((record) => record.key);
      begin({ ...comparison, keys, master: detail.data?.suggestion?.key ?? keys[0] ?? "" });
    }
  });

  // However one leaves it, it is assigned to nobody afterwards.
  useEffect(() => {
    if (id === null) return;
    return () => {
      const claimed = taken.current === id;
      taken.current = null;
      if (claimed) void release(id);
    };
  }, [id, release]);

  // While the page is seen. Whoever took it over meanwhile is said by the cluster, which is read again then.
  useEffect(() => {
    if (id === null) return;
    const renew = () => {
      if (taken.current === id && document.visibilityState === "visible")
        api.claim(id).catch(() => refresh(queries, { queryKey: ["cluster", id] }));
    };
    const timer = window.setInterval(renew, signOfLife);
    document.addEventListener("visibilitychange", renew);
    return () => {
      window.clearInterval(timer);
      document.removeEventListener("visibilitychange", renew);
    };
  }, [id, queries]);

  const back = async () => {
    await refresh(queries, { queryKey: ["clusters"] });
    navigate(comparison.queue ? `/queue?${comparison.queue}` : "/queue");
  };
  const takeOver = useMutation({
    mutationFn: (cluster: Cluster) => api.claim(cluster.id, true),
    onSuccess: (cluster) => {
      taken.current = cluster.id;
    },
    onSettled: () => refreshAll(queries),
  });
  const other = found?.assignee && found.assignee !== session.name ? found.assignee : null;
  const isDecided = found?.state === "merged" || found?.state === "non-duplicates";
  const placeOf = (cluster: number) =>
    api.clusterPlace(cluster, { ...queryOf(filter, session.name), state: "open", skip: skippedHere() });
  const place = useQuery({
    queryKey: ["clusters", "place", id, comparison.queue],
    queryFn: () => placeOf(id ?? 0),
    enabled: id !== null,
    staleTime: 0,
  });
  const go = async (side: "previous" | "next") => {
    const neighbour = id === null ? null : (await placeOf(id))[side];
    if (neighbour) navigate(clusterAddress(neighbour.recordType, neighbour.id, filter));
    return neighbour !== null;
  };
  /** After a decision: what was decided is what there is to say. */
  const goOn = async () => {
    if (!(await go("next"))) await back();
  };
  const next = async () => {
    if (await go("next")) return;
    await back();
    notices.say({ text: t`That was the last group of the queue.` });
  };
  const previous = async () => {
    if (!(await go("previous"))) notices.say({ text: t`This is the first group of the queue.` });
  };
  const skip = async () => {
    if (id !== null) rememberSkipped(id);
    await next();
  };
  return {
    found,
    error: id === null ? null : failureOf(detail),
    retry: () => void detail.refetch(),
    // Who has it instead is said by the cluster itself.
    claimFailed: found && !found.assignee && claim.variables?.id === id ? claim.error : null,
    isClaiming: claim.isPending,
    claimAgain: () => found && claim.mutate(found),
    isReading:
      id !== null && !detail.error && comparison.keys.length === 0 && (!found || found.records.length > 1),
    comments: detail.data?.comments ?? [],
    place: place.data,
    /** The rule that found it, whose preferences and survivorship rules apply; null if it is no longer in force. */
    rule: detail.data?.rule ?? null,
    /** True until it is known what the cluster is. */
    isPending: id !== null && detail.isPending,
    takeOver,
    /** Who else has it, or null. */
    other,
    /** The entry of the history that decided it, if it is decided. */
    decision: isDecided ? (detail.data?.decision ?? null) : null,
    isDecided,
    goOn,
    next,
    previous,
    skip,
    back,
  };
}
