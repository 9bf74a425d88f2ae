import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Cluster, type MapView, type Session } from "../api/client";
import { Empty } from "../ui/Empty";
import { KeyButton } from "../ui/KeyButton";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { useAddress } from "../ui/useAddress";
import { useKeys } from "../ui/useKeys";
import { ClusterRow } from "./ClusterRow";
import { ColumnChooser, useColumns } from "./columns";
import { clusterAddress, type QueueFilter, queryOf, readFilter, sortedBy, writeFilter } from "./filter";
import { GroupPreview } from "./GroupPreview";
import { QueueFilters } from "./QueueFilters";
import { SavedViews } from "./SavedViews";
import { skippedHere } from "./skipped";
import { type DecisionKind, useDecisions } from "./useDecisions";
import { mostSelected, useQueueRows } from "./useQueueRows";

/** The groups to review: filtered, sorted, opened, marked as not duplicates, postponed, resumed and reopened. */
export function QueuePage({ map, session }: { map: MapView; session: Session }) {
  const address = useAddress();
  const { query } = address;
  const navigate = useNavigate();
  const filter = readFilter(query);
  const asked = queryOf(filter, session.name);
  const [ticked, setTicked] = useState<Map<number, Cluster>>(new Map());
  const placeKey = `kettlefog place ${query}`;
  const [cursor, setCursor] = useState(() => placeOf(placeKey));
  const scroller = useRef<HTMLDivElement>(null);
  const decisions = useDecisions();
  const notices = useNotices();
  const { shown, chosen: chosenColumns, show } = useColumns(map, filter.type === "");
  const labelKinds = useMemo(() => labelKindsOf(map), [map]);
  const mayDecide = session.role !== "viewer";

  const { head, total, rows, visible, at, between } = useQueueRows(asked, scroller);
  // Whoever comes back is where they were.
  const isPlaced = useRef(false);
  useEffect(() => {
    if (isPlaced.current || total === 0) return;
    isPlaced.current = true;
    if (cursor > 0) rows.scrollToIndex(Math.min(cursor, total - 1), { align: "center" });
  });
  useEffect(() => sessionStorage.setItem(placeKey, String(cursor)), [placeKey, cursor]);
  // Whoever goes through the list by key has the focus in its row: so does what reads the screen.
  const wantsFocus = useRef<number | null>(null);
  useEffect(() => {
    if (wantsFocus.current !== cursor) return;
    const link = scroller.current?.querySelector<HTMLElement>(`[aria-rowindex="${cursor + 2}"] a`);
    if (!link) return;
    wantsFocus.current = null;
    link.focus({ preventScroll: true });
  });

  const change = (next: Partial<QueueFilter>) => {
    setCursor(0);
    setTicked(new Map());
    scroller.current?.scrollTo({ top: 0 });
    address.change((now) => writeFilter({ ...readFilter(now), ...next }));
  };
  const move = (step: number) => {
    const next = Math.min(Math.max(0, cursor + step), Math.max(0, total - 1));
    wantsFocus.current = next;
    setCursor(next);
    rows.scrollToIndex(next);
  };
  const lastTicked = useRef(0);
  const selection = useMutation({
    mutationFn: ({ from, to }: { from: number; to: number }) => between(from, to),
    onSuccess: (found, { from, to }) => {
      setTicked(new Map([...ticked, ...found.map((each) => [each.id, each] as const)]));
      if (Math.abs(to - from) + 1 > mostSelected)
        notices.say({ text: t`The first ${mostSelected} groups are selected; a decision takes no more.` });
    },
  });
  const selectTo = (to: number) => selection.mutate({ from: lastTicked.current, to });
  const toggle = (cluster: Cluster | undefined, index = cursor) => {
    if (!cluster) return;
    lastTicked.current = index;
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
  const last = useRef({ change, toggle, selectTo });
  last.current = { change, toggle, selectTo };
  const { current: steady } = useRef({
    change: (next: Partial<QueueFilter>) => last.current.change(next),
    tick: (index: number, cluster: Cluster, isRange: boolean) => {
      setCursor(index);
      if (isRange) last.current.selectTo(index);
      else last.current.toggle(cluster, index);
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
    assign: isOpen,
    resume: (cluster) => cluster.state === "postponed",
    reopen: (cluster) => cluster.state === "non-duplicates",
  };
  const decide = (kind: DecisionKind | "resume") => {
    const clusters = chosen().filter(fitting[kind]);
    if (!mayDecide || decisions.isPending || clusters.length === 0) return;
    if (kind === "resume") decisions.resume(clusters);
    else
      decisions.ask({ kind, clusters }, (done) =>
        // What was refused stays selected: there may be another way.
        setTicked((now) => new Map([...now].filter(([id]) => !done.includes(id)))),
      );
  };
  /** Back to the queue: what is postponed is resumed, what was marked as not duplicates is reopened. */
  const restore = () => decide(chosen().some(fitting.resume) ? "resume" : "reopen");
  const takeNext = useMutation({
    mutationFn: () => api.clusters({ ...asked, state: "open", assigned: "", page: 1, size: 100 }),
    onSuccess: (next) => {
      const skipped = skippedHere();
      open(next.items.find((each) => !skipped.includes(each.id)) ?? next.items[0] ?? at(0));
    },
  });
  useKeys("queue", {
    down: () => move(1),
    up: () => move(-1),
    select: () => toggle(at(cursor)),
    selectRange: () => selectTo(cursor),
    open: (event) => {
      if (event?.target instanceof HTMLElement && event.target.closest("a, button")) event.target.click();
      else open(at(cursor));
    },
    nonDuplicates: () => decide("non-duplicates"),
    postpone: () => decide("postpone"),
    assign: () => decide("assign"),
    restore,
    next: () => takeNext.mutate(),
  });

  const current = at(cursor);
  const failed = head.error ?? decisions.error ?? takeNext.error ?? selection.error;
  const why = mayDecide ? null : t`Your role has read-only access.`;
  /** Why a decision about the selected groups cannot be made, or null. */
  const whyNot = (kind: DecisionKind | "resume") =>
    why ?? ([...ticked.values()].some(fitting[kind]) ? null : t`All of them are decided.`);
  return (
    <>
      <div className="page-head queue-head">
        <h1>
          <Trans>To review</Trans>
        </h1>
        <span className="muted" aria-live="polite">
          {head.data
            ? plural(total, { one: "# group", other: "# groups" })
            : head.isPending
              ? t`Loading…`
              : null}
        </span>
        <QueueFilters map={map} filter={filter} change={steady.change} />
        <SavedViews query={writeFilter(filter).toString()} session={session} />
        <ColumnChooser chosen={chosenColumns} show={show} />
        <span className="push why">{why}</span>
        <KeyButton
          scope="queue"
          action="next"
          label={t`Open the next`}
          whyNot={total === 0 ? t`No group is listed.` : null}
          press={() => takeNext.mutate()}
        />
      </div>
      {failed !== null && failed !== undefined && <ProblemNote error={failed} retry={() => head.refetch()} />}
      {decisions.panel}
      <div className={total === 0 ? "" : "review"}>
        <div ref={scroller} className={total === 0 ? "panel" : "panel queue"} aria-busy={head.isFetching}>
          <table
            className="rows"
            aria-label={t`Groups`}
            aria-rowcount={total + 1}
            style={{ minWidth: leastWidth(shown.length) }}
          >
            <thead>
              <tr aria-rowindex={1}>
                <th>
                  <input
                    type="checkbox"
                    className="tick"
                    aria-label={t`Select all groups`}
                    disabled={total === 0}
                    checked={
                      total > 0 &&
                      (ticked.size >= Math.min(total, mostSelected) ||
                        (selection.isPending && selection.variables.to === total - 1))
                    }
                    onChange={(event) =>
                      event.currentTarget.checked
                        ? selection.mutate({ from: 0, to: total - 1 })
                        : setTicked(new Map())
                    }
                  />
                </th>
                <Head title={t`Confidence`} order="confidence" filter={filter} change={steady.change} />
                <th>
                  <Trans>Records</Trans>
                </th>
                {shown.map((column) => (
                  <Head key={column.name} {...column} filter={filter} change={steady.change} />
                ))}
              </tr>
            </thead>
            <tbody>
              <Space height={visible[0]?.start ?? 0} />
              {visible.map((row) => (
                <ClusterRow
                  key={row.key}
                  index={row.index}
                  cluster={at(row.index)}
                  labelKind={labelKinds.get(at(row.index)?.recordType ?? "")}
                  shown={shown}
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
          {head.isPending && <Reading what={t`the queue`} rows={10} />}
          {head.isSuccess && total === 0 && (
            <Empty title={filter.state === "open" ? t`No groups to review` : t`No groups`}>
              {writeFilter(filter).size === 0 ? (
                <Trans>
                  A scan finds possible duplicates: <Link to="/">scan from the overview</Link>. Decisions are
                  in the <Link to="/history">history</Link>.
                </Trans>
              ) : (
                t`Other filters may show more.`
              )}
            </Empty>
          )}
        </div>
        {current && (
          <GroupPreview cluster={current} address={addressOf(current)} map={map} session={session} />
        )}
      </div>
      {ticked.size > 0 && (
        <section className="tray" aria-label={t`Selected groups`}>
          <strong>
            <Trans>{plural(ticked.size, { one: "# group", other: "# groups" })} selected</Trans>
          </strong>
          <span className="push why">{why}</span>
          <Button variant="default" size="sm" onClick={() => setTicked(new Map())}>
            <Trans>Clear selection</Trans>
          </Button>
          {(
            [
              ["assign", "assign", t`Assign`],
              ["postpone", "postpone", t`Postpone`],
              ["non-duplicates", "nonDuplicates", t`Not duplicates`],
              ["resume", "restore", t`Resume`],
              ["reopen", "restore", t`Reopen`],
            ] as const
          )
            .filter(([kind]) =>
              kind === "resume" || kind === "reopen" ? [...ticked.values()].some(fitting[kind]) : true,
            )
            .map(([kind, action, label]) => (
              <KeyButton
                key={kind}
                scope="queue"
                action={action}
                label={label}
                size="sm"
                whyNot={whyNot(kind)}
                loading={decisions.isPending}
                press={() => decide(kind)}
              />
            ))}
        </section>
      )}
    </>
  );
}

/** The head of a column; where the list can be sorted by it, a press does so, and the next one turns the order round. */
function Head({
  title,
  order,
  isNumber,
  filter,
  change,
}: {
  title: string;
  order?: string | undefined;
  isNumber?: true | undefined;
  filter: QueueFilter;
  change: (next: Partial<QueueFilter>) => void;
}) {
  const isSorted = order !== undefined && filter.order === order;
  // The usual order is the highest first, but for what was found: there the oldest.
  const isUp = (order === "age") === (filter.reverse === "");
  return (
    <th
      className={isNumber && "number"}
      aria-sort={isSorted ? (isUp ? "ascending" : "descending") : undefined}
    >
      {order === undefined ? (
        title
      ) : (
        <button type="button" onClick={() => change(sortedBy(filter, order))}>
          {title}
          <span aria-hidden>{isSorted && (isUp ? " ↑" : " ↓")}</span>
        </button>
      )}
    </th>
  );
}

/** The width at which records can still be told apart beside so many columns, in pixels. */
const leastWidth = (others: number) => 330 + 96 * others;

/** By record type: labels that begin with the name of an organisation are compared as such. */
const labelKindsOf = (map: MapView) =>
  new Map(
    map.recordTypes
      .filter((type) => type.fields.some((field) => field.kind === "organisation-name"))
      .map((type) => [type.name, "organisation-name"]),
  );

/** The row at which a list was left in this tab. */
const placeOf = (key: string) => Number(sessionStorage.getItem(key)) || 0;

/** Stands for the rows that are out of sight. */
function Space({ height }: { height: number }) {
  return height > 0 ? <tr className="space" style={{ height }} aria-hidden /> : null;
}
