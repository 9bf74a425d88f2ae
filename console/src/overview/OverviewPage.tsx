import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Progress } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { api, type MapView, type Overview, type Session } from "../api/client";
import { type QueueFilter, queueAddress } from "../queue/filter";
import { Bars } from "../ui/Bars";
import { Empty } from "../ui/Empty";
import { amount, day, moment, number, since } from "../ui/format";
import { ProblemNote, ProblemPage } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { refresh } from "../ui/refresh";
import { failureOf } from "../ui/stale";
import { type Column, Table } from "../ui/Table";
import { Term } from "../ui/Term";
import { Trend } from "../ui/Trend";

/** The groups to review, by record type and confidence, and recent activity. Each number links to what it counts. */
export default function OverviewPage({ map, session }: { map: MapView; session: Session }) {
  const overview = useQuery({
    queryKey: ["overview"],
    queryFn: api.overview,
    staleTime: 1_000,
    // Scans report their progress; large merges are asked about.
    refetchInterval: (query) => ((query.state.data?.jobs.length ?? 0) > 0 ? 1_000 : 30_000),
  });
  const failure = failureOf(overview);
  if (failure) return <ProblemPage title={t`Overview`} error={failure} retry={() => overview.refetch()} />;
  if (!overview.data) return <Reading what={t`the overview`} rows={8} />;
  const { types, days, people, scans, jobs } = overview.data;
  const whyNot = session.role === "viewer" ? t`Your role has read-only access.` : null;
  const waiting = types.reduce((sum, type) => sum + type.open, 0);
  const amountTitle = (name: string) => map.recordTypes.find((type) => type.name === name)?.amountTitle;
  const title = (name: string) => map.recordTypes.find((type) => type.name === name)?.plural ?? name;
  return (
    <>
      <div className="page-head">
        <h1>
          <Trans>Overview</Trans>
        </h1>
        <span className="muted">
          {plural(waiting, { one: "# group to review", other: "# groups to review" })}
        </span>
        <Link className="push" to={queueAddress()}>
          <Trans>Review them (g q)</Trans>
        </Link>
      </div>
      {scans.map((scan) => (
        <ScanWork key={scan.id} scan={scan} title={title(scan.recordType)} whyNot={whyNot} />
      ))}
      {jobs.map((job) => (
        <Work
          key={job.id}
          what={job.kind === "merge" ? t`A large merge is running:` : t`A large merge is being reversed:`}
          how={t`moving related records`}
          done={job.movedRows}
          total={job.totalRows}
          actor={job.actor}
        />
      ))}
      {types.every((type) => type.scannedAt === null) && scans.length === 0 && (
        <div className="note" role="note">
          <Trans>
            <strong>Begin with a scan.</strong> Press “Scan” beside a record type: all its records are
            compared, and nothing is changed. What look like duplicates are then listed here in groups, to be
            merged, postponed, or marked as not duplicates.
          </Trans>
        </div>
      )}
      <section className="panel" style={{ marginBottom: 12 }}>
        <header>
          <h2>
            <Trans>To review</Trans>
          </h2>
        </header>
        <div className="scroll">
          <Table
            rows={types}
            keyOf={(type) => type.recordType}
            columns={[
              {
                head: t`Record type`,
                cell: ({ recordType }) => <Link to={`/records/${recordType}`}>{title(recordType)}</Link>,
              },
              counted(
                <Term name="group">{t`Groups`}</Term>,
                (type) => type.open,
                () => ({}),
              ),
              counted(
                <Term name="certain">{t`Certain`}</Term>,
                (type) => type.certain,
                ({ automatic }) => ({ minScore: String(automatic ?? 100) }),
              ),
              counted(
                t`Uncertain`,
                (type) => type.open - type.certain,
                ({ automatic }) => (automatic === null ? {} : { maxScore: String(automatic) }),
              ),
              counted(
                t`Assigned`,
                (type) => type.assigned,
                () => ({ who: "somebody" }),
              ),
              counted(
                t`Postponed`,
                (type) => type.postponed,
                () => ({ state: "postponed" }),
              ),
              {
                head: t`Related records`,
                kind: "number",
                className: "spare",
                cell: (type) => number(type.relatedRows),
              },
              {
                head: <Term name="amount">{t`Amount`}</Term>,
                kind: "number",
                cell: (type) =>
                  type.amount !== null && (
                    <>
                      <span className="muted small">{amountTitle(type.recordType)}</span>{" "}
                      {amount(type.amount)}
                    </>
                  ),
              },
              counted(
                t`Merged`,
                (type) => type.merged,
                () => ({ state: "merged" }),
              ),
              counted(
                t`Not duplicates`,
                (type) => type.nonDuplicates,
                () => ({ state: "non-duplicates" }),
              ),
              {
                head: t`Oldest`,
                kind: "short",
                cell: ({ oldestAt }) => oldestAt && <span title={moment(oldestAt)}>{since(oldestAt)}</span>,
              },
              {
                head: t`Last scan`,
                kind: "short",
                cell: ({ scannedAt }) =>
                  scannedAt ? since(scannedAt) : <span className="muted">{t`never`}</span>,
              },
              {
                said: t`Scan`,
                cell: ({ recordType }) => (
                  <ScanButton
                    type={recordType}
                    title={title(recordType)}
                    whyNot={
                      whyNot ??
                      (scans.some((scan) => scan.recordType === recordType)
                        ? t`A scan is not finished yet.`
                        : null)
                    }
                  />
                ),
              },
            ]}
          />
        </div>
      </section>
      <div className="columns even">
        {types
          .filter((type) => type.open > 0)
          .map((type) => (
            <Histogram key={type.recordType} type={type} title={title(type.recordType)} />
          ))}
        <Backlog days={overview.data.backlog} />
        <section className="panel">
          <header>
            <h2>
              <Trans>Last thirty days</Trans>
            </h2>
            <Link className="push small" to="/history">
              <Trans>History</Trans>
            </Link>
          </header>
          {days.length > 0 && <Quality days={days} />}
          {days.length === 0 ? (
            <Empty title={t`Nothing yet`}>
              <Trans>Merges, reversals and decisions are counted here.</Trans>
            </Empty>
          ) : (
            <div className="body">
              <Bars
                rows={days.map((each) => ({
                  name: day(each.day),
                  values: [each.merged, each.nonDuplicates, each.reversed],
                }))}
                series={[t`Merged`, t`Not duplicates`, t`Reversed`]}
              />
              <Counts
                title={t`Day (UTC)`}
                rows={[...days]
                  .reverse()
                  .slice(0, 7)
                  .map((each) => ({ ...each, name: day(each.day) }))}
              />
              <Counts
                title={t`User`}
                rows={people.map((each) => ({
                  ...each,
                  name: (
                    <Link
                      to={`/history?actor=${encodeURIComponent(each.actor)}&since=${overview.data.since}`}
                    >
                      {each.actor}
                    </Link>
                  ),
                }))}
              />
            </div>
          )}
        </section>
      </div>
    </>
  );
}

/** Whether the work gets less: the groups that waited at the end of each day. */
function Backlog({ days }: { days: Overview["backlog"] }) {
  const [first, last] = [days[0], days.at(-1)];
  if (!first || !last || days.every((each) => each.clusters === 0)) return null;
  const change = last.clusters - first.clusters;
  return (
    <section className="panel">
      <header>
        <h2>
          <Trans>Groups that wait</Trans>
        </h2>
        <span className="muted small">
          <Trans>open or postponed at the end of each day</Trans>
        </span>
      </header>
      <div className="body">
        <p style={{ margin: "0 0 6px" }}>
          <Trans>
            <strong>{number(last.clusters)}</strong> today,{" "}
            {change === 0
              ? t`as many as on ${day(first.day)}`
              : change > 0
                ? t`${number(change)} more than on ${day(first.day)}`
                : t`${number(-change)} fewer than on ${day(first.day)}`}
            .
          </Trans>
        </p>
        <Trend points={days.map((each) => ({ name: day(each.day), value: each.clusters }))} />
      </div>
    </section>
  );
}

/** How many decisions were taken back: the share that says whether rules and people are right. */
function Quality({ days }: { days: Overview["days"] }) {
  const sum = (of: (day: Overview["days"][number]) => number) =>
    days.reduce((total, each) => total + of(each), 0);
  return (
    <dl className="facts body">
      <div>
        <dt>
          <Trans>Merges reversed</Trans>
        </dt>
        <dd>
          {takenBack(
            sum((each) => each.reversed),
            sum((each) => each.merged),
          )}
        </dd>
      </div>
      <div>
        <dt>
          <Trans>Decisions reopened</Trans>
        </dt>
        <dd>
          {takenBack(
            sum((each) => each.reopened),
            sum((each) => each.nonDuplicates),
          )}
        </dd>
      </div>
    </dl>
  );
}

/** How many were taken back while how many were made: what is taken back may be older. */
export function takenBack(back: number, made: number): string {
  const share = made > 0 ? ` (${Math.round((100 * back) / made)} %)` : "";
  return t`${number(back)}, while ${plural(made, { one: "# was made", other: "# were made" })}${share}`;
}

type Done = Pick<Overview["people"][number], "merged" | "nonDuplicates" | "reversed" | "reopened">;

/** What was done, one row for each day or user. */
function Counts({ title, rows }: { title: string; rows: (Done & { name: ReactNode })[] }) {
  return (
    <Table
      rows={rows}
      keyOf={(_, at) => at}
      columns={[
        { head: title, cell: (row) => row.name },
        { head: t`Merged`, kind: "number", cell: (row) => row.merged },
        { head: t`Not duplicates`, kind: "number", cell: (row) => row.nonDuplicates },
        { head: t`Reversed`, kind: "number", cell: (row) => row.reversed },
        { head: t`Reopened`, kind: "number", cell: (row) => row.reopened },
      ]}
    />
  );
}

/** Asks for a scan of a record type. */
function ScanButton({ type, title, whyNot }: { type: string; title: string; whyNot: string | null }) {
  const queries = useQueryClient();
  const scan = useMutation({
    mutationFn: () => api.addScan(type),
    onSettled: () => refresh(queries, { queryKey: ["overview"] }),
  });
  return (
    <>
      <Button
        size="compact-sm"
        variant="default"
        disabled={whyNot !== null}
        title={whyNot ?? undefined}
        loading={scan.isPending}
        aria-label={t`Scan ${title}`}
        onClick={() => scan.mutate()}
      >
        <Trans>Scan</Trans>
      </Button>
      {scan.error && <ProblemNote error={scan.error} />}
    </>
  );
}

/** A scan that is not finished, with the ways to stop it and to go on. */
function ScanWork({
  scan,
  title,
  whyNot,
}: {
  scan: Overview["scans"][number];
  title: string;
  whyNot: string | null;
}) {
  const queries = useQueryClient();
  const move = useMutation({
    mutationFn: (to: "stop" | "resume" | "cancel") => api.moveScan(scan.id, to),
    onSettled: () => refresh(queries, { queryKey: ["overview"] }),
  });
  const isStopped = scan.state === "stopped";
  return (
    <>
      {move.error && <ProblemNote error={move.error} />}
      <Work
        what={`${title}: ${isStopped ? t`scan stopped` : scan.state === "waiting" ? t`scan waiting` : t`scanning`}:`}
        how={scan.phase}
        done={scan.done}
        total={scan.total}
        actor={scan.actor}
        isAtRest={isStopped}
      >
        {(isStopped ? (["resume", "cancel"] as const) : (["stop"] as const)).map((to) => (
          <Button
            key={to}
            size="compact-sm"
            variant="default"
            disabled={whyNot !== null}
            title={whyNot ?? undefined}
            loading={move.isPending && move.variables === to}
            onClick={() => move.mutate(to)}
          >
            {{ stop: t`Stop`, resume: t`Resume`, cancel: t`Cancel` }[to]}
          </Button>
        ))}
      </Work>
    </>
  );
}

/** Something that is running, and how far it is. */
function Work({
  what,
  how,
  done,
  total,
  actor,
  isAtRest = false,
  children,
}: {
  what: string;
  how: string;
  done: number;
  total: number;
  actor: string;
  isAtRest?: boolean;
  children?: ReactNode;
}) {
  return (
    <div className="note work" role="status">
      <span>
        <Trans>
          <strong>{what}</strong> {how}
          {total > 0 && t`, ${number(done)} of ${number(total)}`}. Started by {actor}.
        </Trans>
      </span>
      <Progress
        aria-label={`${what} ${how}`}
        value={total > 0 ? (100 * done) / total : 100}
        animated={total === 0 && !isAtRest}
        style={{ flex: 1 }}
      />
      {children}
    </div>
  );
}

/** A column of counts, each of which leads to the groups that it counts. */
const counted = (
  head: ReactNode,
  count: (type: TypeOverview) => number,
  filter: (type: TypeOverview) => Partial<QueueFilter>,
): Column<TypeOverview> => ({
  head,
  kind: "number",
  cell: (type) => <Count to={queueAddress({ type: type.recordType, ...filter(type) })} count={count(type)} />,
});

function Count({ to, count }: { to: string; count: number }) {
  return count === 0 ? <span className="muted">0</span> : <Link to={to}>{number(count)}</Link>;
}

type TypeOverview = Overview["types"][number];

/** The bands with one in two where certain groups begin, so that the threshold stands between what it divides. */
export function splitAt(
  { automatic, certain }: Pick<TypeOverview, "automatic" | "certain">,
  bands: TypeOverview["bands"],
): TypeOverview["bands"] {
  return bands.flatMap((band) => {
    if (automatic === null || automatic <= band.from || automatic >= band.to) return [band];
    const above = bands.filter((each) => each.from >= band.to).reduce((sum, each) => sum + each.clusters, 0);
    return [
      { from: band.from, to: automatic, clusters: band.clusters - (certain - above) },
      { from: automatic, to: band.to, clusters: certain - above },
    ];
  });
}

/** The confidence of the groups of a type, with the thresholds drawn in, and the same numbers as a table. */
function Histogram({ type, title }: { type: TypeOverview; title: string }) {
  const navigate = useNavigate();
  const first = type.bands.findIndex((band) => band.clusters > 0);
  const bands = splitAt(type, type.bands.slice(Math.min(first, Math.floor(type.review / 5))));
  const behind = (from: number, to: number) =>
    queueAddress({ type: type.recordType, minScore: String(from), maxScore: String(to) });
  const line = (percent: number, what: string) => {
    const band = bands.findLast((each) => each.from <= percent) ?? bands[0];
    return {
      at: String(band?.from ?? 0),
      along: band ? (percent - band.from) / (band.to - band.from) : 0,
      label: `${what} ${percent} %`,
    };
  };
  const lines = [
    line(type.review, t`review`),
    ...(type.automatic === null ? [] : [line(type.automatic, t`certain`)]),
  ];
  return (
    <section className="panel">
      <header>
        <h2>
          <Trans>{title} by confidence</Trans>
        </h2>
      </header>
      <div className="body">
        <Bars
          rows={bands.map((each) => ({ name: String(each.from), values: [each.clusters] }))}
          series={[t`Groups`]}
          lines={lines}
          open={(row) => {
            const band = bands.find((each) => String(each.from) === row.name);
            if (band) navigate(behind(band.from, band.to));
          }}
        />
        <details>
          <summary>
            <Trans>The same as a table</Trans>
          </summary>
          <Table
            rows={bands}
            keyOf={(band) => band.from}
            columns={[
              { head: t`Confidence`, cell: ({ from, to }) => t`${from} to ${to} %` },
              {
                head: t`Groups`,
                kind: "number",
                cell: ({ from, to, clusters }) => <Count to={behind(from, to)} count={clusters} />,
              },
            ]}
          />
        </details>
      </div>
    </section>
  );
}
