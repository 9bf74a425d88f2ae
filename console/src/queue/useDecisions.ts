import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Cluster } from "../api/client";
import { useNotices } from "../ui/notices";
import { refreshAll } from "../ui/refresh";

const daysPutOff = 7;

const named = (clusters: Cluster[]) =>
  clusters.length === 1
    ? (clusters[0]?.records.map((record) => record.label).join(" | ") ?? "")
    : `${clusters.length} clusters`;

/** The pairs of a cluster's records. */
function pairsOf(cluster: Cluster): [string, string][] {
  const keys = cluster.records.map((record) => record.key);
  return keys.flatMap((a, at) => keys.slice(at + 1).map((b): [string, string] => [a, b]));
}

/** The decisions about clusters that are no merge. Each can be taken back from the notice that tells of it. */
export function useDecisions() {
  const queries = useQueryClient();
  const notices = useNotices();
  const refresh = () => refreshAll(queries);

  const markNonDuplicates = useMutation({
    mutationFn: async (clusters: Cluster[]) => {
      for (const cluster of clusters) await api.markNonDuplicates(cluster.id, { records: null, reason: "" });
      return clusters;
    },
    onSuccess: (clusters) =>
      notices.say({
        text: `Kept apart: ${named(clusters)}.`,
        undo: async () => {
          for (const cluster of clusters)
            for (const [a, b] of pairsOf(cluster))
              await api.reopen({ recordType: cluster.recordType, a, b, reason: "" });
          void refresh();
        },
      }),
    onSettled: refresh,
  });

  const postpone = useMutation({
    mutationFn: async (clusters: Cluster[]) => {
      const until = new Date(Date.now() + daysPutOff * 86_400_000).toISOString().slice(0, 10);
      for (const cluster of clusters) await api.postpone(cluster.id, until);
      return { clusters, until };
    },
    onSuccess: ({ clusters, until }) =>
      notices.say({
        text: `Put off until ${until}: ${named(clusters)}.`,
        undo: async () => {
          for (const cluster of clusters) await api.resume(cluster.id);
          void refresh();
        },
      }),
    onSettled: refresh,
  });

  const exclude = useMutation({
    mutationFn: async ({ cluster, key }: { cluster: Cluster; key: string }) => {
      await api.markNonDuplicates(cluster.id, { records: [key], reason: "" });
      return { cluster, key };
    },
    onSuccess: ({ cluster, key }) => {
      const others = cluster.records.filter((record) => record.key !== key);
      notices.say({
        text: `${key} was taken out of the cluster, and is kept apart from the others.`,
        undo: async () => {
          for (const other of others)
            await api.reopen({ recordType: cluster.recordType, a: key, b: other.key, reason: "" });
          void refresh();
        },
      });
    },
    onSettled: refresh,
  });

  const assign = useMutation({
    mutationFn: ({ cluster, user }: { cluster: number; user: string | null }) => api.assign(cluster, user),
    onSettled: () => queries.invalidateQueries({ queryKey: ["clusters"] }),
  });

  return { markNonDuplicates, postpone, exclude, assign };
}
