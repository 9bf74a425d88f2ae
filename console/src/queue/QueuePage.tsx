import { Button } from "@mantine/core";
import { keepPreviousData, useMutation, useQueries, useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, type Cluster, type MapView, type Session } from "../api/client";
import { Empty } from "../ui/Empty";
import { counted } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { useKeys } from "../ui/useKeys";
import { ClusterRow, rowHeight } from "./ClusterRow";
import { clusterAddress, type QueueFilter, queryOf, readFilter, writeFilter } from "./filter";
import { QueueFilters } from "./QueueFilters";
import { skippedHere } from "./skipped";
import { type DecisionKind, useDecisions } from "./useDecisions";

const pageSize = 100;

/** The groups to review: filtered, sorted, opened, marked as not duplicates, postponed, resumed and reopened. */
export function QueuePage({ map, session }: { map: MapView; session: Session }) {
  const [query, setQuery] = useSearchParams();
  const navigate = useNavigate();
  const filter = readFilter(query);
  const asked = queryOf(filter, session.name);
  const [ticked, setTicked] = useState<Map<number, Cluster>>(new Map());
  const placeKey = `kettlefog place ${query}`;
  const [cursor, setCursor] = useState(() => placeOf(placeKey));
  const scroller = useRef<HTMLDivElement>(null);
  const decisions = useDecisions();
  const mayDecide = session.role !== "viewer";

  const head = useQuery({
    queryKey: ["clusters", asked, 1],
    queryFn: () => api.clusters({ ...asked, page: 1, size: pageSize }),
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
    overscan: 12,
  });
  // Whoever comes back is where they were.
  const isPlaced = useRef(false);
  useEffect(() => {
    if (isPlaced.current || total === 0) return;
    isPlaced.current = true;
    if (cursor > 0) rows.scrollToIndex(Math.min(cursor, total - 1), { align: "center" });
  });
  useEffect(() => sessionStorage.setItem(placeKey, String(cursor)), [placeKey, cursor]);
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
  const isOpen = (cluster: Cluster) => ["open", "assigned", "postponed"].includes(cluster.state);
  /** The selected groups about which a decision can be made. */
  const fitting: Record<DecisionKind | "resume", (cluster: Cluster) => boolean> = {
    // One whose date has come is listed again, and may be postponed once more.
    "non-duplicates": isOpen,
    postpone: isOpen,
    resume: (cluster) => cluster.state === "postponed",
    reopen: (cluster) => cluster.state === "non-duplicates",
  };
  const decide = (kind: DecisionKind | "resume") => {
    const clusters = chosen().filter(fitting[kind]);
    if (!mayDecide || decisions.isPending || clusters.length === 0) return;
    if (kind === "resume") decisions.resume(clusters);
    else decisions.ask({ kind, clusters }, () => setTicked(new Map()));
  };
  /** Back to the queue: what is postponed is resumed, what was marked as not duplicates is reopened. */
  const restore = () => decide(chosen().some(fitting.resume) ? "resume" : "reopen");
  const takeNext = useMutation({
    mutationFn: () => api.clusters({ ...asked, state: "open", assigned: "", page: 1, size: pageSize }),
    onSuccess: (next) => {
      const skipped = skippedHere();
      open(next.items.find((each) => !skipped.includes(each.id)) ?? next.items[0] ?? at(0));
    },
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
    a: () => decide("non-duplicates"),
    o: () => decide("postpone"),
    r: restore,
    t: () => takeNext.mutate(),
  });

  const failed = head.error ?? decisions.error ?? takeNext.error;
  const title = (name: string) => map.recordTypes.find((type) => type.name === name)?.title ?? name;
  const why = mayDecide ? null : "Your role has read-only access.";
  /** Why a decision about the selected groups cannot be made, or null. */
  const whyNot = (kind: DecisionKind | "resume") =>
    why ?? ([...ticked.values()].some(fitting[kind]) ? null : "All of them are decided.");
  return (
    <>
      <div className="page-head">
        <h1>To review</h1>
        <span className="muted" aria-live="polite">
          {head.data ? counted(total, "group", "groups") : "Loading…"}
        </span>
        <span className="push why">{why}</span>
        <Button
          size="compact-md"
          onClick={() => takeNext.mutate()}
          disabled={total === 0}
          title={total === 0 ? "No group is listed." : undefined}
        >
          Open the next (t)
        </Button>
      </div>
      <QueueFilters map={map} filter={filter} change={steady.change} />
      {failed !== null && failed !== undefined && <ProblemNote error={failed} retry={() => head.refetch()} />}
      {decisions.panel}
      <div
        ref={scroller}
        className={total === 0 ? "panel" : ticked.size > 0 ? "panel queue above-tray" : "panel queue"}
        aria-busy={head.isFetching}
      >
        <table className="rows" aria-label="Groups" aria-rowcount={total + 1}>
          <thead>
            <tr aria-rowindex={1}>
              <th>
                <span className="visually-hidden">Selected</span>
              </th>
              <th>Confidence</th>
              <th>Records and reason</th>
              <th>Type</th>
              <th className="number">Related</th>
              <th className="number">Amount</th>
              <th>Found</th>
              <th>Assigned</th>
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
                amountTitle={
                  map.recordTypes.find((each) => each.name === at(row.index)?.recordType)?.amountTitle ?? null
                }
                address={addressOf(at(row.index))}
                isCursor={row.index === cursor}
                isTicked={ticked.has(at(row.index)?.id ?? 0)}
                tick={steady.tick}
                focus={setCursor}
              />
            ))}
            <Space height={rows.getTotalSize() - (visible.at(-1)?.end ?? 0)} />
          </tbody>
        </table>
        {head.isPending && <Reading what="the queue" rows={10} />}
        {head.isSuccess && total === 0 && (
          <Empty title={filter.state === "open" ? "No groups to review" : "No groups"}>
            {writeFilter(filter).size === 0 ? (
              <>
                A scan finds possible duplicates: <Link to="/">scan from the overview</Link>. Decisions are in
                the <Link to="/history">history</Link>.
              </>
            ) : (
              "Other filters may show more."
            )}
          </Empty>
        )}
      </div>
      {ticked.size > 0 && (
        <section className="tray" aria-label="Selected groups">
          <strong>{counted(ticked.size, "group", "groups")} selected</strong>
          <span className="push why">{why}</span>
          <Button variant="default" size="sm" onClick={() => setTicked(new Map())}>
            Clear selection
          </Button>
          {(
            [
              ["postpone", "Postpone (o)"],
              ["non-duplicates", "Not duplicates (a)"],
              ["resume", "Resume (r)"],
              ["reopen", "Reopen (r)"],
            ] as const
          )
            .filter(([kind]) =>
              kind === "resume" || kind === "reopen" ? [...ticked.values()].some(fitting[kind]) : true,
            )
            .map(([kind, text]) => (
              <Button
                key={kind}
                variant="default"
                size="sm"
                disabled={whyNot(kind) !== null}
                title={whyNot(kind) ?? undefined}
                loading={decisions.isPending}
                onClick={() => decide(kind)}
              >
                {text}
              </Button>
            ))}
        </section>
      )}
    </>
  );
}

/** The row at which a list was left in this tab. */
const placeOf = (key: string) => Number(sessionStorage.getItem(key)) || 0;

/** Stands for the rows that are out of sight. */
function Space({ height }: { height: number }) {
  return height > 0 ? <tr className="space" style={{ height }} aria-hidden /> : null;
}
