import type { QueryClient } from "@tanstack/react-query";
import type { Cluster } from "../api/client";

interface Page {
  items: Cluster[];
  total: number;
}

const isPage = (data: unknown): data is Page =>
  typeof data === "object" && data !== null && Array.isArray((data as Page).items);

/**
 * Takes groups that were just decided out of the lists that were read: the next key is meant for the next group, also
 * before the lists have been read again.
 */
export function forgetDecided(queries: QueryClient, ids: number[]) {
  queries.setQueriesData({ queryKey: ["clusters"] }, (data: unknown) => {
    if (!isPage(data)) return data;
    const items = data.items.filter((cluster) => !ids.includes(cluster.id));
    return { ...data, items, total: data.total - (data.items.length - items.length) };
  });
}
