import { keepPreviousData, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import type { RefObject } from "react";
import { api, type Cluster, type ClusterQuery } from "../api/client";
import { rowHeight } from "./ClusterRow";

const pageSize = 100;

/** As many groups one decision is about at most; the service takes no more in a call. */
export const mostSelected = 500;

const pageOf = (index: number) => Math.floor(index / pageSize) + 1;

/** The groups of the queue, of which only those in sight are read and drawn. */
export function useQueueRows(asked: ClusterQuery, scroller: RefObject<HTMLDivElement | null>) {
  const queries = useQueryClient();
  const pageQuery = (page: number) => ({
    queryKey: ["clusters", asked, page],
    queryFn: () => api.clusters({ ...asked, page, size: pageSize }),
  });
  const head = useQuery({
    ...pageQuery(1),
    staleTime: 0,
    // A claim that lapses is no event that the service tells of.
    refetchInterval: 60_000,
    placeholderData: keepPreviousData,
  });
  const total = head.data?.total ?? 0;
  const rows = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 5,
  });
  const visible = rows.getVirtualItems();
  const pages = [...new Set(visible.map((row) => pageOf(row.index)))].filter((page) => page > 1);
  const rest = useQueries({ queries: pages.map(pageQuery) });
  const at = (index: number): Cluster | undefined => {
    const page = pageOf(index);
    const items = page === 1 ? head.data?.items : rest[pages.indexOf(page)]?.data?.items;
    return items?.[index % pageSize];
  };
  /** Reads the groups from one row to another, those out of sight too, as far as a decision can be about them. */
  const between = async (from: number, to: number): Promise<Cluster[]> => {
    const first = Math.min(from, to);
    const last = Math.min(Math.max(from, to), first + mostSelected - 1, total - 1);
    const found: Cluster[] = [];
    for (let page = pageOf(first); page <= pageOf(last); page++) {
      const { items } = await queries.fetchQuery({ ...pageQuery(page), staleTime: 5_000 });
      found.push(
        ...items.filter((_, row) => {
          const index = (page - 1) * pageSize + row;
          return index >= first && index <= last;
        }),
      );
    }
    return found;
  };
  return { head, total, rows, visible, at, between };
}
