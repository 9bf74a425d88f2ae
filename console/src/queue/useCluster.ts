import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import { api, type Cluster, Refused, type Session } from "../api/client";
import type { Comparison } from "../merge/choices";
import { release, rememberAssigned } from "./assignment";
import { clusterAddress, queryOf, readFilter } from "./filter";

/**
 * The cluster that a comparison was opened for: it is taken in hand, its records and the suggested master become the
 * comparison, and when it is decided the next one of the same queue follows.
 */
export function useCluster(comparison: Comparison, session: Session, begin: (fresh: Comparison) => void) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const id = comparison.cluster;
  const filter = readFilter(new URLSearchParams(comparison.queue));
  const detail = useQuery({
    queryKey: ["cluster", id],
    queryFn: () => api.cluster(id ?? 0),
    enabled: id !== null,
  });
  const found = id === null ? undefined : detail.data?.cluster;
  const taken = useRef<number | null>(null);
  const claim = useMutation({
    mutationFn: async (cluster: Cluster) => {
      // Whoever left it while the database was held does not want it any more.
      const isLeft = () => taken.current !== cluster.id;
      if (isLeft()) return;
      await api.assign(cluster.id, session.name);
      if (cluster.assignee === session.name) return;
      rememberAssigned(cluster.id);
      if (isLeft()) await release(cluster.id, queries);
    },
    // Another program, or a scan that reads, may keep the database from being written for a while.
    retry: (count, error) => count < 5 && error instanceof Refused && error.problem.status === 503,
    retryDelay: 1000,
    onSettled: (_data, _error, cluster) => queries.invalidateQueries({ queryKey: ["cluster", cluster.id] }),
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

  // However one leaves it, it is in nobody's hand afterwards.
  useEffect(() => {
    if (id === null) return;
    return () => {
      taken.current = null;
      void release(id, queries);
    };
  }, [id, queries]);

  const back = async () => {
    if (id !== null) await release(id, queries);
    await queries.invalidateQueries({ queryKey: ["clusters"] });
    navigate(comparison.queue ? `/queue?${comparison.queue}` : "/queue");
  };
  const goOn = async () => {
    const asked = { ...queryOf(filter, session.name), state: "open", page: 1, size: 20 };
    const waiting = await api.clusters(asked);
    const next = waiting.items.find(
      (each) => each.id !== id && (each.assignee === null || each.assignee === session.name),
    );
    if (next) navigate(clusterAddress(next.recordType, next.id, filter));
    else navigate(comparison.queue ? `/queue?${comparison.queue}` : "/queue");
  };
  return {
    found,
    error: id === null ? null : detail.error,
    retry: () => void detail.refetch(),
    // Who has it instead is said by the cluster itself.
    claimFailed: found && !found.assignee && claim.variables?.id === id ? claim.error : null,
    isClaiming: claim.isPending,
    claimAgain: () => found && claim.mutate(found),
    isReading:
      id !== null && !detail.error && comparison.keys.length === 0 && (!found || found.records.length > 1),
    goOn,
    back,
  };
}
