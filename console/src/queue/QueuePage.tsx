import { Button } from "@mantine/core";
import { keepPreviousData, useMutation, useQueries, useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, type Cluster, type MapView, type Session } from "../api/client";
import { Empty } from "../ui/Empty";
import { counted } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { useKeys } from "../ui/useKeys";
import { ClusterRow, rowHeight } from "./ClusterRow";
import { clusterAddress, type QueueFilter, queryOf, readFilter, writeFilter } from "./filter";
import { QueueFilters } from "./QueueFilters";
import { useDecisions } from "./useDecisions";

const pageSize = 100;

/** The clusters that wait for somebody: filtered, sorted, taken in hand, kept apart or put off. */
export function QueuePage({ map, session }: { map: MapView; session: Session }) {
  const [query, setQuery] = useSearchParams();
  const navigate = useNavigate();
  const filter = readFilter(query);
  const asked = queryOf(filter, session.name);
  const [ticked, setTicked] = useState<Map<number, Cluster>>(new Map());
  const [cursor, setCursor] = useState(0);
  const scroller = useRef<HTMLDivElement>(null);
  const decisions = useDecisions();
  const mayDecide = session.role !== "viewer";

  const head = useQuery({
    queryKey: ["clusters", asked, 1],
    queryFn: () => api.clusters({ ...asked, page: 1, size: pageSize }),
    staleTime: 0,
    placeholderData: keepPreviousData,
  });
  const total = head.data?.total ?? 0;
  const rows = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });
  const visible = rows.getVirtualItems();
  const pages = [...new Set(visible.map((row) => Math.floor(row.index / pageSize) + 1))].filter(
    (page) => page > 1,
  );
  const rest = useQueries({
    queries: pages.map((page) => ({
      queryKey: ["clusters", asked, page],
      queryFn: () => api.clusters({ ...asked, page, size: pageSize }),
    })),
  });
  const at = (index: number): Cluster | undefined => {
    const page = Math.floor(index / pageSize) + 1;
    const items = page === 1 ? head.data?.items : rest[pages.indexOf(page)]?.data?.items;
    return items?.[index % pageSize];
  };

  const change = (next: Partial<QueueFilter>) => {
    setCursor(0);
    setTicked(new Map());
    scroller.current?.scrollTo({ top: 0 });
    setQuery(writeFilter({ ...filter, ...next }), { replace: true });
  };
  const move = (step: number) => {
    const next = Math.min(Math.max(0, cursor + step), Math.max(0, total - 1));
    setCursor(next);
    rows.scrollToIndex(next);
  };
  const toggle = (cluster: Cluster | undefined) => {
    if (!cluster) return;
    const next = new Map(ticked);
    if (!next.delete(cluster.id)) next.set(cluster.id, cluster);
    setTicked(next);
  };
  const open = (cluster: Cluster | undefined) => {
    if (cluster) navigate(clusterAddress(cluster.recordType, cluster.id, filter));
  };
  const addressOf = (cluster: Cluster | undefined) =>
    cluster ? clusterAddress(cluster.recordType, cluster.id, filter) : "";

  // What rows and filters call stays the same, so that they are drawn again only when they change.
  const last = useRef({ change, toggle });
  last.current = { change, toggle };
  const { current: steady } = useRef({
    change: (next: Partial<QueueFilter>) => last.current.change(next),
    tick: (index: number, cluster: Cluster) => {
      setCursor(index);
      last.current.toggle(cluster);
    },
  });

  const chosen = () => {
    const current = at(cursor);
    return ticked.size > 0 ? [...ticked.values()] : current ? [current] : [];
  };
  const busy = decisions.markNonDuplicates.isPending || decisions.postpone.isPending;
  const decide = (mutation: typeof decisions.markNonDuplicates | typeof decisions.postpone) => {
    const clusters = chosen();
    if (!mayDecide || busy || clusters.length === 0) return;
    mutation.mutate(clusters, { onSuccess: () => setTicked(new Map()) });
  };
  const takeNext = useMutation({
    mutationFn: () => api.clusters({ ...asked, state: "open", assigned: "", page: 1, size: 1 }),
    onSuccess: (next) => open(next.items[0] ?? at(0)),
  });
  useKeys({
    j: () => move(1),
    ArrowDown: () => move(1),
    k: () => move(-1),
    ArrowUp: () => move(-1),
    x: () => toggle(at(cursor)),
    Enter: (event) => {
      if (event.target instanceof HTMLElement && event.target.closest("a, button")) event.target.click();
      else open(at(cursor));
    },
    a: () => decide(decisions.markNonDuplicates),
    o: () => decide(decisions.postpone),
    t: () => takeNext.mutate(),
  });

  const failed =
    head.error ?? decisions.markNonDuplicates.error ?? decisions.postpone.error ?? takeNext.error;
  const title = (name: string) => map.recordTypes.find((type) => type.name === name)?.title ?? name;
  const why = mayDecide ? null : "Viewers look, but do not decide.";
  return (
    <>
      <div className="page-head">
        <h1>Queue</h1>
        <span className="muted" aria-live="polite">
          {head.data ? counted(total, "cluster", "clusters") : "Looking…"}
        </span>
        <span className="push why">{why}</span>
        <Button
          size="compact-md"
          onClick={() => takeNext.mutate()}
          disabled={total === 0}
          title={total === 0 ? "Nothing waits." : undefined}
        >
          Take the next (t)
        </Button>
      </div>
      <QueueFilters map={map} filter={filter} change={steady.change} />
      {failed && <ProblemNote error={failed} retry={() => head.refetch()} />}
      <div
        ref={scroller}
        className={total === 0 ? "panel" : ticked.size > 0 ? "panel queue above-tray" : "panel queue"}
        aria-busy={head.isFetching}
      >
        <table className="rows" aria-label="Clusters" aria-rowcount={total + 1}>
          <thead>
            <tr aria-rowindex={1}>
              <th>
                <span className="visually-hidden">Ticked</span>
              </th>
              <th>Sure</th>
              <th>Records, and why</th>
              <th>Type</th>
              <th className="number">Rows</th>
              <th className="number">Money</th>
              <th>Found</th>
              <th>In hand</th>
            </tr>
          </thead>
          <tbody>
            <Space height={visible[0]?.start ?? 0} />
            {visible.map((row) => (
              <ClusterRow
                key={row.key}
                index={row.index}
                cluster={at(row.index)}
                type={title(at(row.index)?.recordType ?? "")}
                address={addressOf(at(row.index))}
                isCursor={row.index === cursor}
                isTicked={ticked.has(at(row.index)?.id ?? 0)}
                tick={steady.tick}
              />
            ))}
            <Space height={rows.getTotalSize() - (visible.at(-1)?.end ?? 0)} />
          </tbody>
        </table>
        {head.isPending && <Reading what="the queue" rows={10} />}
        {head.isSuccess && total === 0 && (
          <Empty title={filter.state === "open" ? "Nothing waits" : "There are none"}>
            {writeFilter(filter).size === 0
              ? "A scan looks for duplicates: 'kettlefog scan vendor'. What was decided stands in the history."
              : "Other filters may show more."}
          </Empty>
        )}
      </div>
      {ticked.size > 0 && (
        <section className="tray" aria-label="Ticked clusters">
          <strong>{counted(ticked.size, "cluster", "clusters")} ticked</strong>
          <span className="push why">{why}</span>
          <Button variant="default" size="sm" onClick={() => setTicked(new Map())}>
            Untick all
          </Button>
          <Button
            variant="default"
            size="sm"
            disabled={why !== null}
            loading={decisions.postpone.isPending}
            onClick={() => decide(decisions.postpone)}
          >
            Put off a week (o)
          </Button>
          <Button
            variant="default"
            size="sm"
            disabled={why !== null}
            loading={decisions.markNonDuplicates.isPending}
            onClick={() => decide(decisions.markNonDuplicates)}
          >
            Keep apart (a)
          </Button>
        </section>
      )}
    </>
  );
}

/** Stands for the rows that are out of sight. */
function Space({ height }: { height: number }) {
  return height > 0 ? <tr className="space" style={{ height }} aria-hidden /> : null;
}
